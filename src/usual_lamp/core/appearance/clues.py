"""What names say of how a part looks: a table that a colleague can read and extend.

Each line is a pattern, the sample of the shelf that it asks for, and how sure that is, 0 to 1. Patterns are regular
expressions, found anywhere in a name in lower case; `text_of` says what a name becomes first. What a finish says goes
before what it lies on, and within a group the first line that fits decides.

Sources: steel numbers and names of EN 10027, aluminium of EN 573 and EN 1706, copper alloys of EN 1412, plastics of
ISO 1043, elastomers of ISO 1629, fasteners by the titles of their ISO and DIN standards; all from memory. That
fasteners are zinc plated unless said otherwise, seals black and springs blued is common practice, no published source.
Words in English, German, French, Italian and Spanish.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from typing import Literal

Kind = Literal["finish", "material", "standard", "name", "shape", "whole", "beside"]


@dataclass(frozen=True)
class Clue:
    """What a word of a name says."""

    kind: Kind
    word: str
    """As it stood there."""
    sample: str
    sure: float


Line = tuple[str, str, float]

FINISHES: tuple[Line, ...] = (
    (r"hot.?dip|feuerverzink|galvanisation à chaud|zincatura a caldo|\btzn\b", "zinc-dipped", 0.9),
    (r"yellow (zinc|chromat|passivat)|gelb ?(verzinkt|chromat)|zingué jaune", "zinc-yellow", 0.9),
    (r"zinc.?plat|zinc.?coat|galvani[sz]ed|verzinkt|galv\.? ?zn|\bgal ?zn|\bfe/+zn|\bzn ?\d+\b|zingu|zincat|cincad|"
     r"\ba[234][a-r]\b", "zinc-plated", 0.9),
    (r"black chrom|schwarzchrom|schwarz ?verchromt", "chrome-black", 0.9),
    (r"(satin|matt).{0,4}chrom|matt ?verchromt", "chrome-satin", 0.9),
    (r"chrome?.?plat|verchrom|chrom[ée]\b|cromat|cromad", "chrome-plated", 0.9),
    (r"nickel.?plat|electroless nickel|\benp\b|vernickel|chem\.? ?ni(ckel)?\b|nickelé|nichelat|niquelad",
     "nickel-plated", 0.9),
    (r"gold.?plat|vergold|doré\b|dorat[oa]|dorado", "gold-plated", 0.85),
    (r"silver.?plat|versilber|argenté|argentat|plateado", "silver-plated", 0.85),
    (r"tin.?plat|verzinnt|étamé|stagnat|estañad", "tin-plated", 0.85),
    (r"titanium nitrid|\btin.?(coat|besch)|\btin coating", "nitride-gold", 0.8),
    (r"(black|schwarz|noir|ner[oa]|negr[oa]).{0,12}(anodi[sz]|elox)|(anodi[sz]\w*|elox\w*|anodisé|anodizzato|anodizado)"
     r".{0,12}(black|schwarz|noir|ner[oa]|negr[oa])", "anodised-black", 0.9),
    (r"hart ?elox|hard.?(coat|anodi)|anodisation dure", "anodised-black", 0.7),
    (r"anodi[sz]|elox|anodis[ée]", "anodised-natural", 0.85),
    (r"powder.?coat|pulver ?besch|pulverlack|thermolaqu|poudre époxy|verniciat\w* a polvere|recubrimiento en polvo|"
     r"\bral ?\d{4}", "powder-grey", 0.9),
    (r"black.?oxid|blackened|brünier|bruenier|burnish|bruni\b|brunit|pavonad|phosphat", "steel-black", 0.85),
    (r"\black(iert|ierung)?\b|painted|\bpaint\b|peint|verniciat|pintad", "satin-grey", 0.8),
    (r"bead.?blast|sand.?blast|glasperl|gestrahlt|sablé|sabbiat|arenad", "steel-blasted", 0.6),
    (r"brushed|gebürstet|geschliffen|brossé|spazzolat|cepillad", "steel-brushed", 0.6),
    (r"polished|poliert|poli[es]?\b|lucidat|pulid", "steel-polished", 0.6),
    (r"knurl|rändel|raendel|molet[ée]|zigrinat|moletead", "steel-knurled", 0.6),
)  # fmt: skip
MATERIALS: tuple[Line, ...] = (
    (r"en.?gj[lsmv]|\bggg?.?\d{2}|gr[ae]y (cast )?iron|cast.?iron|grauguss|gusseisen|fonte\b|ghisa|fundici[oó]n gris|"
     r"hierro fundido", "iron-cast", 0.9),
    (r"\bgs.?(38|45|52|60)\b|cast steel|stahlguss|acier moulé|acciaio fuso", "steel-cast", 0.85),
    (r"spring steel|federstahl|acier (à|a) ressort|acciaio per molle|acero para muelles|en.?10270|1\.4310\b",
     "steel-spring", 0.85),
    (r"en ?ac|alsi\d+|die.?cast|druckguss|moul[ée] sous pression|pressofus|fundici[oó]n a presi[oó]n",
     "aluminium-cast", 0.85),
    (r"magnesium|\baz ?91|\bam ?60\b", "magnesium-cast", 0.85),
    (r"zamak|znal\d|zinc.?alloy|zinkdruckguss", "aluminium-cast", 0.7),
    (r"en ?aw|almg\w*|alcu\w*|alzn\w*|\b3\.\d{4}\b|\b(2017|2024|5083|5754|6060|6061|6063|6082|7075)\b|alumin|\balu\b",
     "aluminium-machined", 0.85),
    (r"cu ?zn\d*|\bcz ?121\b|\bms ?58|\b2\.04\d\d\b|brass|messing|laiton|ottone|lat[oó]n", "brass-turned", 0.9),
    (r"cu ?sn\d*|cual\d*|\b2\.10\d\d\b|bronz|rotguss|\brg ?7\b", "bronze-bare", 0.85),
    (r"cu.?(etp|dhp|of)\b|\be.?cu\b|copper|kupfer|cuivre|\brame\b|cobre", "copper-bare", 0.85),
    (r"ti.?6.?al.?4.?v|\b3\.7\d{3}\b|titan", "titanium-bare", 0.85),
    (r"tungsten|wolfram|hartmetall|carbide|carbure|metallo duro", "tungsten-bare", 0.75),
    (r"100 ?cr ?6|\b1\.3505\b|\b52100\b", "steel-polished", 0.8),
    (r"\b1\.4\d{3}|x\d+ ?cr ?ni|x\d+ ?cr\d+|aisi.?3\d\d|sus ?3\d\d|\b(303|304l?|316l?)\b|\ba[24].?(50|70|80)\b|inox|"
     r"stainless|edelstahl|v[24]a\b|acero inoxidable", "steel-machined", 0.9),
    (r"\b1\.[0-35-9]\d{3}\b|\bs ?(235|275|355)\w*|\bst ?(37|52)\b|\bc ?(15|35|45|60)e?\b|\d+(crmo|mncr|smn|mnv)\w*|"
     r"aisi.?(1\d{3}|4\d{3})|\bdc ?0\d|steel|stahl|\bacier|acciaio|\bacero", "steel-machined", 0.8),
    (r"silicon(e)?\b|silikon|\bvmq\b|silicona", "silicone-milky", 0.85),
    (r"foam|schaumstoff|\bmousse|schiuma|espuma", "foam-grey", 0.8),
    (r"\b(nbr|hnbr|epdm|fkm|fpm|ffkm|sbr|cr|iir|acm)\b|elastomer|rubber|gummi|caoutchouc|\bgomma|\bgoma\b|"
     r"neopren", "rubber-black", 0.9),
    (r"\btp[eu]\b|\bpur\b|soft.?touch|polyurethan", "soft-touch", 0.75),
    (r"\bpom|acetal|polyoxymethylen", "pom-white", 0.85),
    (r"pa ?6{1,2}.{0,3}gf|polyamid\w*.{0,4}gf|nylon.{0,4}gf|pa ?12.{0,3}gf", "pa-glass", 0.9),
    (r"\bpa ?(6|66|11|12)\b|polyamid|nylon|poliammide|poliamida", "pa-natural", 0.8),
    (r"\bpc.?abs\b|\babs\b|\bpbt\b|\basa\b|\bsan\b", "abs-grey", 0.85),
    (r"\bpc\b|polycarbonat|policarbonat|\bpmma\b|acryl|metacrilat", "polycarbonate-clear", 0.85),
    (r"\bpeek", "peek-natural", 0.9),
    (r"\bptfe|\bpfa\b|\bfep\b|\bpvdf\b", "ptfe-white", 0.85),
    (r"\bpe.?(hd|ld|uhmw|1000|500)?\b|hdpe|polyethylen|polietilen", "pe-natural", 0.8),
    (r"\bpp\b|polypropylen|polipropilen", "pp-white", 0.8),
    (r"\bpvc\b|\bps\b|polystyr", "abs-grey", 0.7),
    (r"phenol|bakelit|hartpapier|\bpf ?31\b", "phenolic-brown", 0.75),
    (r"\bfr.?4\b", "board-green", 0.7),
    (r"carbon.?fib|cfk|cfrp|kohlefaser|fibre de carbone|fibra d[ie] carbon", "carbon-matt", 0.85),
    (r"borosilic|float ?glas|\bglass?\b|\bverre|\bvetro|vidrio|sapphire|saphir", "glass-clear", 0.85),
    (r"al2o3|alumina\b|zro2|ceramic|keramik|céramique|ceramica", "ceramic-bisque", 0.8),
    (r"plywood|sperrholz|\bbirch|\bbeech|buche\b", "beech", 0.75),
    (r"\boak|eiche|chêne|roble", "oak", 0.75),
    (r"cork|kork|liège|sughero|corcho", "cork", 0.75),
    (r"felt|filz|feutre|feltro|fieltro", "felt-grey", 0.75),
    (r"cardboard|karton|carton", "cardboard", 0.7),
)  # fmt: skip
SCREWS = "4762|4014|4016|4017|4018|7380|10642|2009|2010|7045|7046|7047|7048|1207|4026|4027|4028|4029|14579|14583"
SCREWS_DIN = "84|85|603|316|464|653|603|912|913|914|915|916|931|933|960|961|963|964|965|966|6912|7500|7984|7985|7991"
NUTS = "4032|4033|4034|4035|4036|7040|7042|10511|10512|21670"
NUTS_DIN = "315|439|466|467|508|546|562|557|555|929|934|936|980|985|1587|6923|6331"
WASHERS = "7089|7090|7091|7092|7093|7094|8738|10673"
WASHERS_DIN = "125|126|127|128|137|433|440|6340|6796|6797|6798|6905|6916|9021|7349"
STANDARDS: tuple[Line, ...] = (
    (rf"\biso.?({SCREWS})\b|\bdin.?({SCREWS_DIN})\b", "zinc-plated", 0.8),
    (rf"\biso.?({NUTS})\b|\bdin.?({NUTS_DIN})\b", "zinc-plated", 0.8),
    (rf"\biso.?({WASHERS})\b|\bdin.?({WASHERS_DIN})\b", "zinc-plated", 0.8),
    (r"\bdin.?(471|472|6799|983|984|5417)\b", "steel-spring", 0.85),
    (r"\biso.?(2338|2339|8733|8734|8735|8736|8740|8741|8752|8750|13337|2341)\b|\bdin.?(1|7|1443|1444|1470|1481|6325|7343|"
     r"7344|7346|7978|7979)\b", "steel-polished", 0.8),
    (r"\bdin.?688[58]\b|\biso.?(773|2491)\b", "steel-machined", 0.75),
    (r"\biso.?3601\b|\bdin.?3771\b", "rubber-black", 0.9),
    (r"\biso.?6194\b|\bdin.?3760\b", "rubber-black", 0.8),
    (r"\bdin.?(615|616|617|618|620|625|628|630|635|711|720)\b|\biso.?(15|104|355)\b", "steel-polished", 0.8),
    (r"\bdin.?5401\b|\biso.?3290\b", "steel-polished", 0.85),
    (r"\bdin.?(2093|2095|2097|2098)\b|\ben.?(13906|15800)\b", "steel-spring", 0.85),
    (r"\bdin.?(906|908|909|910|71412)\b", "zinc-plated", 0.7),
    (r"\bdin.?3017\b", "steel-brushed", 0.7),
)  # fmt: skip
NAMES: tuple[Line, ...] = (
    (r"o.?ring\b|joint torique|quad.?ring|v.?ring\b|oring", "rubber-black", 0.9),
    (r"gasket|dichtung|dichtring|\bseal\b|\bseals\b|sealing|wellendicht|\bjoint d|guarnizion|\bjunta|"
     r"membran|diaphragm", "rubber-black", 0.7),
    (r"circlip|retaining.?ring|sicherungsring|sprengring|anneau élastique|anello elastico|anillo el[aá]stico|"
     r"snap.?ring", "steel-spring", 0.85),
    (r"lock.?washer|spring.?washer|federring|zahnscheibe|rondelle (élastique|grower)|rondella elastica", "zinc-plated",
     0.75),
    (r"spring\b|springs\b|feder\b|federn\b|ressort|\bmoll[ae]\b|muelle|resorte", "steel-spring", 0.8),
    (r"\bcast(ing)?\b|gussteil|pillow.?block|stehlager|flanschlager|bearing.?(block|housing|unit)|lagerbock|"
     r"lagergehäuse", "iron-cast", 0.6),
    (r"ball.?bearing|roller.?bearing|needle.?bearing|bearing\b(?!.*(seat|cover))|(inner|outer).?(race|ring)\b|"
     r"kugellager|rollenlager|wälzlager|(innen|aussen|außen)ring\b|roulement|cuscinett|"
     r"rodamiento", "steel-polished", 0.75),
    (r"bush(ing)?\b|buchse\b(?!.*steck)|gleitlager|\bbague|boccola|casquillo", "bronze-bare", 0.55),
    (r"anti.?backlash|nut.?block|spindelmutter", "pom-black", 0.6),
    (r"lead.?screw|ball.?screw|gewindespindel|trapezspindel|vis (mère|à billes)|vite (madre|a ricircolo)|husillo",
     "steel-turned", 0.75),
    (r"coupl(er|ing)\b|kupplung|accouplement|\bgiunto|acoplamiento", "aluminium-machined", 0.6),
    (r"screw|\bbolt|schraube|\bvis\b|\bvite\b|\bviti\b|tornill|threaded.?rod|gewindestift|gewindestange|grub|stud\b",
     "zinc-plated", 0.75),
    (r"\bnuts?\b|mutter\b|muttern\b|écrou|ecrou|\bdado\b|\bdadi\b|tuerca", "zinc-plated", 0.75),
    (r"washer|unterlegscheibe|\bscheibe\b|rondelle|rondella|arandela", "zinc-plated", 0.75),
    (r"rivet|\bniete?n?\b|remache|rivett", "aluminium-machined", 0.6),
    (r"(pcb|circuit.?board|\bboard).{0,12}(substrate|laminat|core)|substrate.{0,12}pcb", "board-bare", 0.75),
    (r"solder.?(mask|resist)|lötstopp", "board-green", 0.8),
    (r"\b(ic|cpu|mcu|eeprom|ddr|bga|qf[pn]|[a-z]?so(ic|p|t))[-_ ]?\d*\b|\bmicro.?chip|"
     r"(micro|mikro|usb|ethernet|network).?controller|processor|prozessor|transistor|\bmosfet|opto.?coupler|optokoppler",
     "chip-black", 0.6),
    (r"\b(rj|usb|hdmi|d.?sub|sma|bnc|m8|m12)[-_ ]?\d*.{0,10}(port|jack|connector|socket|shell|stecker|buchse)|"
     r"(ethernet|network|usb|video).{0,10}(port|jack|connector|socket)|\bshield(ing)?.?(can|cage)|connector.?shell",
     "nickel-plated", 0.6),
    (r"(connector|contact|header|terminal|stecker|kontakt).{0,12}pins?\b|\bcontact.?(pin|spring|blade)|kontaktstift|"
     r"steckerstift", "gold-plated", 0.6),
    (r"connector|\bplug\b|socket\b(?!.*(head|screw))|(pin|pcb|box).?header|\bheaders?\b|stiftleiste|buchsenleiste|"
     r"stecker|connecteur|connettore|conector|klemme|terminal", "abs-black", 0.6),
    (r"dowel|\bpins?\b|stift\b|goupille|\bspina\b|pasador|bolzen\b", "steel-polished", 0.65),
    (r"silicone.?(hose|tube|tubing)|silikonschlauch|tuyau silicone", "silicone-milky", 0.85),
    (r"\bhose\b|schlauch|tuyau|\bflexible\b(?!.*(coupl|shaft|arm))|tubo flessibile|manguera|bellows|faltenbalg|"
     r"soufflet", "rubber-black", 0.7),
    (r"\bcable|kabel|leitung\b|\bcavo\b|\bcavi\b|\bwire|litze|harness", "abs-black", 0.6),
    (r"\bpcb|circuit.?board|platine|leiterplatte|circuit imprimé|scheda elettronica|placa electr", "board-green", 0.75),
    (r"sight.?glass|schauglas|window|fenster|hublot|finestra|ventana|visor|light.?guide|lichtleiter|transparent|\bclear\b",
     "polycarbonate-clear", 0.75),
    (r"\blens\b|\blinse\b|lentille|\blente\b", "polycarbonate-clear", 0.7),
    (r"magnet|aimant|calamita|im[aá]n\b", "nickel-plated", 0.7),
    (r"(rubber.?)?\b(foot|feet)\b|gummifu|gerätefu|\bfuß|\bfuss\b|\bfüße|stellfu|\bpied|piedin|\bpies?\b|bumper|puffer",
     "rubber-black", 0.7),
    (r"knob|drehknopf|\bknopf|\bgriff|handle|handgriff|poignée|\bbouton|maniglia|manopola|\basa\b|tirador|\bgrip\b|lever\b|"
     r"hebel", "textured-black", 0.6),
    (r"button|taste\b|tasten|keypad|\bkey.?cap|pulsante|pulsador|touche", "abs-grey", 0.55),
    (r"name.?plate|typenschild|plaque signal|targhett|placa de caracter", "anodised-natural", 0.65),
    (r"label|etikett|aufkleber|sticker|étiquette|etichetta|etiqueta", "paper", 0.55),
    (r"shaft|welle\b|\baxle|achse\b|\barbre|albero|\beje\b|spindle|spindel|\brods?\b|stange\b|\btige|\bstelo|v[aá]stago",
     "steel-turned", 0.6),
    (
        r"gear\b(?!.?(?:box|motor))|gears\b|zahnrad|ritzel|pinion|engrenage|ingranagg|engranaje|sprocket|kettenrad",
        "steel-machined",
        0.6,
    ),
    (r"heat.?sink|kühlkörper|dissipat|disipador|radiateur", "anodised-black", 0.65),
    (r"weld|schwei(ß|ss)naht|cordon de soudure|saldatura|soldadura", "steel-blasted", 0.6),
    (r"spacer\b|stand.?off|distanz(hülse|stück|bolzen)|abstands(hülse|bolzen)|entretoise|distanziale|separador",
     "aluminium-machined", 0.5),
    (r"linear.?rail|extru(sion|ded)|\balu\w*profil|strebenprofil|strangpress|profilé alu|profilato|perfil de alu",
     "anodised-natural", 0.55),
    (r"\brails?\b|schiene\b|\bguía|\brotaia", "steel-machined", 0.45),
    (r"\bmotor\b|\bmotore?\b|moteur|\bgear.?(box|motor)|getriebe", "matt-black", 0.5),
    (r"end.?(cap|plate|mount)|gantry|\bplate\b|\bmount\b|\bflange\b|platte\b|flansch|\bplaque|\bbride\b|piastra|"
     r"flangia|\bplaca\b|\bbrida", "aluminium-machined", 0.45),
    (r"sheet.?metal|\bblech|\btôle|lamiera|\bchapa|bracket|winkel\b|halter\b|haltewinkel|équerre|staffa|soporte",
     "steel-brushed", 0.45),
)  # fmt: skip
SHAPES: dict[str, tuple[str, float]] = {
    "screw": ("zinc-plated", 0.7),
    "nut": ("zinc-plated", 0.75),
    "washer": ("zinc-plated", 0.6),
    "pin": ("steel-machined", 0.5),
    "ball": ("steel-polished", 0.6),
    "spring": ("steel-spring", 0.8),
    "O-ring": ("rubber-black", 0.8),
}
"""What a part of a kind that its shape tells is made of, and how sure that is."""
GROUPS: tuple[tuple[Kind, tuple[Line, ...]], ...] = (
    ("finish", FINISHES),
    ("material", MATERIALS),
    ("standard", STANDARDS),
    ("name", NAMES),
)
_compiled = {kind: [(re.compile(pattern), sample, sure) for pattern, sample, sure in lines] for kind, lines in GROUPS}
CAMEL = re.compile(r"(?<=[a-zß-ÿ])(?=[A-ZÀ-Þ])|(?<=[A-Za-z])_|_(?=\w)")


def text_of(name: str) -> str:
    """A name in lower case, as it stands and with its words apart, so that numbers of alloys stay whole and words are
    found: "SocketHead_Screw" becomes "sockethead_screw | socket head screw"."""
    plain = unicodedata.normalize("NFC", name)
    apart = CAMEL.sub(" ", plain).replace("_", " ")
    return f"{plain.lower()} | {apart.lower()}"


def _whole_words(text: str, start: int, stop: int) -> str:
    """What was found, to the ends of its words."""
    while start > 0 and text[start - 1].isalnum():
        start -= 1
    while stop < len(text) and text[stop].isalnum():
        stop += 1
    return text[start:stop].strip()


def clues_in(name: str, kinds: tuple[Kind, ...] = ("finish", "material", "standard", "name")) -> list[Clue]:
    """What a name says, at most one thing of each kind; the kinds in order."""
    text = text_of(name)
    found = []
    for kind in kinds:
        for pattern, sample, sure in _compiled[kind]:
            match = pattern.search(text)
            if match:
                found.append(Clue(kind, _whole_words(text, *match.span()), sample, sure))
                break
    return found
