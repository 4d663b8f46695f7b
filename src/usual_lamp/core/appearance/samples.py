"""The samples on the shelf, family by family. What each number rests on is said in `shelf`."""

from __future__ import annotations

from usual_lamp.core.appearance.black_body import black_body
from usual_lamp.core.appearance.made_pictures import MADE, PREFIX
from usual_lamp.core.appearance.openpbr import Appearance, Family, OpenPBR, hex_to_linear
from usual_lamp.core.appearance.texture import Mapping, Texture, TextureTarget

Value = float | bool | str | tuple[float, ...]
WORDS: dict[str, str] = {}
"""Other words that a sample is sought by."""


def laid(
    made: str,
    target: TextureTarget,
    strength: float = 1.0,
    mapping: Mapping = "surface",
    beneath_coat: bool = False,
) -> Texture:
    """A made picture at its real size on unrolled faces; the strength of heights is in mm."""
    found = MADE[made]
    return Texture(
        picture=PREFIX + made, target=target, mapping=mapping, width=found.width, height=found.height,
        strength=strength, beneath_coat=beneath_coat,
    )  # fmt: skip


def sample(
    id: str, name: str, family: Family, color: str, words: str = "", textures: tuple[Texture, ...] = (), **params: Value
) -> Appearance:
    """Return a sample: `color` as sRGB hex, `words` it is sought by, `params` by their OpenPBR names."""
    values = {"base_color": hex_to_linear(color), **params}
    WORDS[id] = f"{words} plated" if " plate" in name else words
    return Appearance(id=id, name=name, family=family, params=OpenPBR.model_validate(values), textures=textures)


Textures = tuple[Texture, ...]


def _metal(
    id: str, name: str, color: str, rough: float, words: str = "", textures: Textures = (), **params: Value
) -> Appearance:
    values: dict[str, Value] = {"base_metalness": 1.0, "specular_roughness": rough, **params}
    return sample(id, name, "metal", color, words, textures, **values)


def _brushed(id: str, name: str, color: str, words: str = "") -> Appearance:
    lines = (laid("brushed", "bump", 0.0015, "machined"),)
    return _metal(id, name, color, 0.32, words, lines, specular_roughness_anisotropy=0.85)


def _anodised(name: str, color: str) -> Appearance:
    # The oxide is a clear, dyed skin over the metal: its colour tints what the metal mirrors.
    return _metal(f"anodised-{name}", f"Anodised, {name}", color, 0.34, "eloxal aluminium", base_metalness=0.75)


def _plastic(
    id: str, name: str, color: str, rough: float, words: str = "", textures: Textures = (), **params: Value
) -> Appearance:
    return sample(id, name, "plastic", color, words, textures, specular_roughness=rough, **params)


def _board(name: str, color: str) -> Appearance:
    # Solder mask is a glossy lacquer; copper and laminate beneath take the shine off a little.
    return _plastic(
        f"board-{name}", f"Circuit board, {name}", color, 0.3, "pcb solder mask electronics",
        coat_weight=0.6, coat_roughness=0.12,
    )  # fmt: skip


def _clear(
    id: str, name: str, family: Family, color: str, depth: float, words: str = "", **params: Value
) -> Appearance:
    """See-through; the colour is that of white light after `depth` mm."""
    values: dict[str, Value] = {"specular_roughness": 0.0, "specular_ior": 1.52, **params}
    return sample(
        id, name, family, "#FFFFFF", words, (), transmission_weight=1.0, transmission_color=hex_to_linear(color),
        transmission_depth=depth, **values,
    )  # fmt: skip


def _milky(id: str, name: str, family: Family, color: str, path: float, words: str = "", **params: Value) -> Appearance:
    """Translucent: light goes `path` mm between scatterings."""
    return sample(
        id, name, family, color, words, (), subsurface_weight=1.0, subsurface_color=hex_to_linear(color),
        subsurface_radius=path, subsurface_radius_scale=(1.0, 0.8, 0.6), **params,
    )  # fmt: skip


def _coated(
    id: str, name: str, color: str, coat: float, words: str = "", textures: Textures = (), **params: Value
) -> Appearance:
    """Base coat under clear coat."""
    values: dict[str, Value] = {"specular_roughness": 0.45, "coat_weight": 1.0, "coat_roughness": coat, **params}
    return sample(id, name, "paint", color, words, textures, **values)


def _powder(id: str, name: str, color: str) -> Appearance:
    return sample(
        id, name, "paint", color, "powder coat fine texture", (laid("fine", "bump", 0.028),),
        specular_roughness=0.48, base_diffuse_roughness=0.3,
    )  # fmt: skip


def _flake(id: str, name: str, color: str) -> Appearance:
    return _coated(
        id, name, color, 0.02, "metallic effect car", base_metalness=0.85, specular_roughness=0.32,
        textures=(laid("flakes", "normal", beneath_coat=True),),
    )  # fmt: skip


def _lit(id: str, name: str, color: str, luminance: float, words: str, emission: tuple[float, ...]) -> Appearance:
    return sample(
        id, name, "glow", color, words, specular_roughness=0.2, emission_luminance=luminance, emission_color=emission
    )


def metals() -> list[Appearance]:
    """Return the samples of metals."""
    rings = (laid("rings", "bump", 0.006, "machined"),)
    steel, aluminium, brass, copper = "#C6C4C1", "#DDDEDF", "#E6C578", "#FAD1C2"
    return [
        _metal("steel-machined", "Steel, machined", steel, 0.26, "bare milled iron"),
        _brushed("steel-brushed", "Steel, brushed", steel, "stainless inox"),
        _metal("steel-polished", "Steel, polished", "#C9C8C6", 0.06, "stainless inox mirror"),
        _metal("steel-blasted", "Steel, bead-blasted", "#B9B8B5", 0.52, "stainless inox satin"),
        _metal("steel-cast", "Steel, cast", "#8E8C89", 0.55, "iron foundry", textures=(laid("cast", "bump", 0.05),)),
        _metal("iron-cast", "Cast iron", "#6B6966", 0.62, "grey foundry", textures=(laid("cast", "bump", 0.08),)),
        _metal("steel-black", "Steel, black oxide", "#2E2F31", 0.4, "blackened burnished screw"),
        _metal("steel-spring", "Steel, blued", "#5B6B86", 0.22, "spring tempered"),
        _metal("steel-knurled", "Steel, knurled", steel, 0.24, "grip diamond", textures=(laid("knurl", "bump", 0.35),)),
        _metal("steel-turned", "Steel, turned", steel, 0.2, "lathe rings", rings),
        _metal("steel-perforated", "Steel sheet, perforated", steel, 0.3, "holes grille",
               textures=(laid("holes", "opacity"),)),
        _metal("aluminium-machined", "Aluminium, machined", "#E2E3E4", 0.24, "milled"),
        _metal("aluminium-blasted", "Aluminium, blasted", aluminium, 0.42, "satin"),
        _brushed("aluminium-brushed", "Aluminium, brushed", "#DEDFE1"),
        _metal("aluminium-polished", "Aluminium, polished", "#E6E7E9", 0.07, "mirror", base_conductor="Al"),
        _metal("aluminium-cast", "Aluminium, die-cast", "#C4C5C6", 0.5, "", (laid("cast", "bump", 0.03),)),
        _metal("magnesium-cast", "Magnesium, cast", "#B3B2AE", 0.48, "die", textures=(laid("cast", "bump", 0.025),)),
        _metal("brass-turned", "Brass, turned", brass, 0.17, "cuzn messing", rings),
        _metal("brass-polished", "Brass, polished", "#EBCB7E", 0.05, "cuzn messing mirror"),
        _brushed("brass-brushed", "Brass, brushed", "#DDBD74", "cuzn"),
        _metal("brass-aged", "Brass, aged", "#8F7A4C", 0.4, "cuzn patina old"),
        _metal("bronze-bare", "Bronze, bearing", "#C39A6B", 0.27, "cusn bushing sintered"),
        _metal("copper-bare", "Copper, bare", copper, 0.22, "cu", base_conductor="Cu"),
        _brushed("copper-brushed", "Copper, brushed", "#EDC0AD", "cu"),
        _metal("titanium-bare", "Titanium, machined", "#B9B2AA", 0.3, "ti"),
        _metal("titanium-tinted", "Titanium, heat-tinted", "#BDB4AA", 0.2, "ti blue purple colour anodised",
               thin_film_weight=1.0, thin_film_thickness=0.075, thin_film_ior=2.4),
        _metal("titanium-gold", "Titanium, gold-tinted", "#BDB4AA", 0.2, "ti anodised",
               thin_film_weight=1.0, thin_film_thickness=0.03, thin_film_ior=2.4),
        _metal("nitride-gold", "Titanium nitride coating", "#D8B36A", 0.15, "tin drill tool", base_conductor="TiN"),
        _metal("chrome-plated", "Chrome plate", "#D1D5DA", 0.05, "cr mirror", base_conductor="Cr"),
        _metal("chrome-satin", "Chrome plate, satin", "#CDD1D6", 0.3, "cr matt", base_conductor="Cr"),
        _metal("chrome-black", "Chrome plate, black", "#4A4C50", 0.06, "cr dark mirror"),
        _metal("nickel-plated", "Nickel plate", "#D3C9B8", 0.12, "ni electroless"),
        _metal("zinc-plated", "Zinc plate, clear", "#C3C9CF", 0.28, "galvanised zn screw"),
        _metal("zinc-yellow", "Zinc plate, yellow", "#C9BC8A", 0.28, "galvanised passivated iridescent",
               thin_film_weight=0.45, thin_film_thickness=0.29, thin_film_ior=1.7),
        _metal("zinc-dipped", "Zinc, hot-dipped", "#A9ADB0", 0.5, "galvanised spangle",
               textures=(laid("peel", "bump", 0.02),)),
        _metal("gold-plated", "Gold plate", "#FFE59E", 0.14, "au contact", base_conductor="Au"),
        _metal("silver-plated", "Silver plate", "#F3F1EC", 0.12, "ag contact", base_conductor="Ag"),
        _metal("tin-plated", "Tin plate", "#D2D0CA", 0.34, "sn solder"),
        _metal("tungsten-bare", "Tungsten", "#B5ADA4", 0.3, "carbide w", base_conductor="W"),
        *(_anodised(name, color) for name, color in (
            ("natural", "#C9CBCC"), ("black", "#232428"), ("red", "#A82A33"), ("blue", "#28539B"),
            ("green", "#3D7A4F"), ("gold", "#C4983E"), ("orange", "#E0612A"), ("violet", "#5B3F86"))),
    ]  # fmt: skip


def plastics() -> list[Appearance]:
    """Return the samples of plastics."""
    grain = (laid("grain", "bump", 0.06), laid("spark", "bump", 0.006))
    return [
        _plastic("abs-graphite", "ABS, graphite satin", "#34373B", 0.42, "dark grey"),
        _plastic("abs-light", "ABS, light grey gloss", "#D9D8D3", 0.16, "shiny"),
        _plastic("abs-white", "ABS, white gloss", "#F0EFEA", 0.14, "shiny"),
        _plastic("abs-black", "ABS, black gloss", "#131416", 0.12, "piano shiny"),
        _plastic("abs-grey", "ABS, mid grey satin", "#8B8E90", 0.4, "housing"),
        _plastic("abs-red", "ABS, red satin", "#B3262A", 0.38, "emergency"),
        _plastic("abs-blue", "ABS, blue satin", "#24508F", 0.38),
        _plastic("abs-green", "ABS, green satin", "#2F7A4C", 0.38),
        _plastic("abs-yellow", "ABS, yellow satin", "#E5B51C", 0.38, "safety"),
        _plastic("abs-orange", "ABS, orange satin", "#DE6420", 0.38),
        *(_plastic(f"textured-{name}", f"Plastic, {name} textured", color, 0.5, "spark eroded moulded", textures=grain)
          for name, color in (("black", "#1D1E20"), ("grey", "#6E7174"), ("light", "#C9C7C0"))),
        _plastic("textured-leather", "Plastic, leather grain", "#2A2B2E", 0.48, "dashboard",
                 textures=(laid("leather", "bump", 0.06),)),
        _plastic("soft-touch", "Soft-touch, anthracite", "#2C2E31", 0.6, "rubberised coating", specular_weight=0.6,
                 fuzz_weight=0.45, fuzz_color=hex_to_linear("#8D9299"), fuzz_roughness=0.5),
        _plastic("soft-touch-light", "Soft-touch, light", "#BDBBB5", 0.6, "rubberised coating", specular_weight=0.6,
                 fuzz_weight=0.4, fuzz_color=hex_to_linear("#FFFFFF"), fuzz_roughness=0.5),
        _plastic("pom-white", "POM, natural", "#ECEAE2", 0.3, "acetal delrin gear", subsurface_weight=0.5,
                 subsurface_color=hex_to_linear("#ECEAE2"), subsurface_radius=0.6),
        _plastic("pom-black", "POM, black", "#1A1B1C", 0.3, "acetal delrin gear"),
        _plastic("pa-natural", "PA 6, natural", "#E3D8BE", 0.36, "nylon polyamide", subsurface_weight=0.5,
                 subsurface_color=hex_to_linear("#E3D8BE"), subsurface_radius=0.8),
        _plastic("pa-glass", "PA 6, glass-filled black", "#26272A", 0.55, "nylon polyamide gf",
                 textures=(laid("fine", "bump", 0.006),)),
        _plastic("peek-natural", "PEEK, natural", "#B79C74", 0.35, "beige"),
        *(_board(name, color) for name, color in (
            ("green", "#14543A"), ("blue", "#173F7A"), ("red", "#8E1F22"), ("black", "#17191B"), ("white", "#E4E4DF"))),
        _plastic("board-bare", "Circuit board, bare FR-4", "#C9BE8C", 0.36, "pcb substrate laminate glass epoxy",
                 subsurface_weight=0.4, subsurface_color=hex_to_linear("#C9BE8C"), subsurface_radius=0.4),
        _plastic("chip-black", "Chip package, black", "#1C1D1F", 0.5, "ic epoxy mould electronics",
                 textures=(laid("fine", "bump", 0.004),)),
        _plastic("phenolic-brown", "Phenolic, brown", "#4A2A1A", 0.22, "bakelite resin"),
        _plastic("ptfe-white", "PTFE, white", "#E9EDEE", 0.5, "teflon seal", subsurface_weight=0.6,
                 subsurface_color=hex_to_linear("#E9EDEE"), subsurface_radius=0.5),
        _milky("pe-natural", "PE, natural", "plastic", "#DFDFD0", 1.4, "hdpe polyethylene translucent bottle",
               specular_roughness=0.38),
        _milky("pp-white", "PP, translucent", "plastic", "#E3E8E6", 2.4, "polypropylene cap", specular_roughness=0.3),
        _milky("opal-white", "Diffuser, opal", "plastic", "#F6F5F1", 0.7, "pmma lamp cover", specular_roughness=0.3),
        _clear("polycarbonate-smoke", "Polycarbonate, smoke", "plastic", "#4A4A4C", 3.0, "grey tinted cover",
               specular_ior=1.585),
        _clear("lens-red", "Lens, clear red", "plastic", "#D0201A", 3.0, "pmma indicator", specular_ior=1.49),
        _clear("lens-amber", "Lens, clear amber", "plastic", "#E88A10", 3.0, "pmma indicator", specular_ior=1.49),
        _clear("lens-green", "Lens, clear green", "plastic", "#2FA860", 3.0, "pmma indicator", specular_ior=1.49),
        _clear("lens-blue", "Lens, clear blue", "plastic", "#2E6FD0", 3.0, "pmma tinted", specular_ior=1.49),
    ]  # fmt: skip


def paints() -> list[Appearance]:
    """Return the samples of paints and coatings."""
    return [
        sample("powder-slate", "Powder coat, slate blue", "paint", "#6E8CA6", "epoxy",
               specular_roughness=0.46, base_diffuse_roughness=0.3),
        _powder("powder-black", "Powder coat, black fine texture", "#1F2022"),
        _powder("powder-grey", "Powder coat, grey fine texture", "#7A7E80"),
        _powder("powder-white", "Powder coat, white fine texture", "#E8E7E2"),
        _powder("powder-green", "Powder coat, green fine texture", "#33553F"),
        _coated("paint-red", "Gloss paint, red", "#A8231E", 0.03, "lacquer"),
        _coated("paint-white", "Gloss paint, white", "#EDECE7", 0.03, "lacquer"),
        _coated("paint-black", "Gloss paint, black", "#101113", 0.03, "lacquer piano"),
        _coated("paint-blue", "Gloss paint, blue", "#1C4A8C", 0.03, "lacquer"),
        _coated("paint-green", "Gloss paint, machine green", "#4C7A5C", 0.03, "lacquer"),
        _coated("paint-yellow", "Gloss paint, safety yellow", "#F0B90B", 0.03, "lacquer warning"),
        _coated("paint-orange", "Gloss paint, orange", "#E05A14", 0.03, "lacquer"),
        _coated("paint-peel", "Gloss paint, orange peel", "#3E5F86", 0.04, "lacquer sprayed blue",
                textures=(laid("peel", "bump", 0.012),)),
        sample("satin-grey", "Satin paint, grey", "paint", "#A0A5AA", "lacquer silk", specular_roughness=0.36),
        sample("satin-white", "Satin paint, white", "paint", "#E4E3DE", "lacquer silk", specular_roughness=0.36),
        sample("satin-blue", "Satin paint, steel blue", "paint", "#4F6F8E", "lacquer silk", specular_roughness=0.36),
        sample("matt-black", "Matt paint, black", "paint", "#1B1C1D", "lacquer flat",
               specular_roughness=0.8, base_diffuse_roughness=0.6),
        sample("matt-white", "Matt paint, white", "paint", "#E9E8E3", "lacquer flat",
               specular_roughness=0.8, base_diffuse_roughness=0.6),
        sample("matt-olive", "Matt paint, olive", "paint", "#5A5B3C", "lacquer flat",
               specular_roughness=0.8, base_diffuse_roughness=0.6),
        sample("primer-red", "Primer, oxide red", "paint", "#7A3B2C", "undercoat",
               specular_roughness=0.75, base_diffuse_roughness=0.6),
        _flake("flake-silver", "Flake paint, silver", "#C5C8CB"),
        _flake("flake-graphite", "Flake paint, graphite", "#4B4F55"),
        _flake("flake-blue", "Flake paint, blue", "#2F5C9C"),
        _flake("flake-red", "Flake paint, red", "#9C2B30"),
        _coated("hammer-grey", "Hammer finish, grey", "#8E9397", 0.1, "hammertone", base_metalness=0.6,
                textures=(laid("peel", "bump", 0.07),)),
    ]  # fmt: skip


def see_through() -> list[Appearance]:
    """Return the samples of glass and clear plastics."""
    thin = {"geometry_thin_walled": True}
    return [
        _clear("polycarbonate-clear", "Polycarbonate, clear", "glass", "#F8FCFC", 30.0, "cover pc", specular_ior=1.585),
        _clear("glass-clear", "Glass, clear", "glass", "#EAF6F0", 40.0, "window float"),
        _clear("glass-thin", "Glass, thin sheet", "glass", "#F5F8F6", 0.0, "window film", **thin),
        _clear("glass-frosted", "Glass, frosted", "glass", "#EDF5F1", 40.0, "etched satin", specular_roughness=0.4),
        _clear("glass-grey", "Glass, grey tinted", "glass", "#6F7678", 6.0, "smoke solar"),
        _clear("glass-green", "Glass, green tinted", "glass", "#7FB296", 6.0, "bottle"),
        _clear("glass-bronze", "Glass, bronze tinted", "glass", "#A37F5B", 6.0, "brown"),
        _clear("glass-blue", "Glass, cobalt", "glass", "#2B4FB0", 5.0, "blue"),
        _clear("glass-amber", "Glass, amber", "glass", "#B5651D", 5.0, "brown bottle vial"),
        _clear("water-clear", "Water", "glass", "#E3F1F4", 120.0, "liquid", specular_ior=1.333),
        _clear("oil-mineral", "Oil, mineral", "glass", "#D9A93A", 14.0, "liquid lubricant", specular_ior=1.47),
        _clear("coolant-blue", "Coolant, blue", "glass", "#4E9BC8", 20.0, "liquid", specular_ior=1.36),
    ]  # fmt: skip


def rubbers() -> list[Appearance]:
    """Return the samples of rubbers and soft plastics."""
    foam = (laid("foam", "bump", 0.22),)
    return [
        sample("rubber-black", "Rubber, black", "rubber", "#222224", "epdm nbr gasket",
               specular_roughness=0.62, specular_weight=0.7, base_diffuse_roughness=0.6),
        sample("rubber-grey", "Rubber, grey", "rubber", "#6A6B6C", "epdm gasket",
               specular_roughness=0.62, specular_weight=0.7, base_diffuse_roughness=0.6),
        sample("rubber-brown", "Rubber, brown", "rubber", "#5A3B2A", "fkm viton o-ring",
               specular_roughness=0.5, specular_weight=0.8, base_diffuse_roughness=0.4),
        _milky("silicone-milky", "Silicone, milky", "rubber", "#EFE7D8", 1.6, "hose tube",
               specular_roughness=0.33, specular_ior=1.41),
        _milky("silicone-red", "Silicone, red", "rubber", "#B5402E", 0.5, "oxide seal",
               specular_roughness=0.4, specular_ior=1.41),
        _milky("silicone-blue", "Silicone, blue", "rubber", "#4C7FB8", 0.6, "hose food",
               specular_roughness=0.38, specular_ior=1.41),
        _clear("silicone-clear", "Silicone, clear", "rubber", "#F0EEE6", 8.0, "hose tube",
               specular_roughness=0.2, specular_ior=1.41),
        sample("foam-black", "Foam, black", "rubber", "#1E1E20", "sponge seal", foam,
               specular_roughness=0.9, specular_weight=0.3, base_diffuse_roughness=0.8),
        sample("foam-grey", "Foam, grey", "rubber", "#77787A", "sponge packing", foam,
               specular_roughness=0.9, specular_weight=0.3, base_diffuse_roughness=0.8),
        sample("foam-yellow", "Foam, yellow", "rubber", "#D9B64E", "sponge", foam,
               specular_roughness=0.9, specular_weight=0.3, base_diffuse_roughness=0.8),
    ]  # fmt: skip


def grown_and_woven() -> list[Appearance]:
    """Return the samples of wood, cloth and fibres."""
    weave, twill = laid("plain weave", "bump", 0.16), laid("twill", "bump", 0.04, beneath_coat=True)
    leather = laid("leather", "bump", 0.09)
    carbon = (laid("carbon", "color"), twill)

    def wood(name: str, color: str, words: str = "", **params: Value) -> Appearance:
        """A wood with its made picture; `color` as sRGB hex."""
        values: dict[str, Value] = {"specular_roughness": 0.42, "specular_weight": 0.7, **params}
        return sample(name, name.capitalize(), "wood", color, words, (laid(name, "color"),), **values)

    def cloth(id: str, name: str, color: str, fuzz: str) -> Appearance:
        """A plain weave; its colour and that of its hairs as sRGB hex."""
        return sample(id, name, "fabric", color, "textile woven", (weave,), specular_roughness=0.8, specular_weight=0.3,
                      base_diffuse_roughness=0.8, fuzz_weight=0.5, fuzz_color=hex_to_linear(fuzz),
                      fuzz_roughness=0.6)  # fmt: skip

    return [
        wood("oak", "#B98C57", "timber plank"),
        wood("beech", "#D4AC83", "timber"),
        wood("walnut", "#5E4029", "timber dark"),
        wood("maple", "#E0C598", "timber light"),
        sample("walnut-lacquered", "Walnut, lacquered", "wood", "#5E4029", "timber gloss varnish",
               (laid("walnut", "color"),), specular_roughness=0.4, coat_weight=1.0, coat_roughness=0.05),
        sample("cork", "Cork", "wood", "#A87B4C", "sheet gasket", (laid("cork", "color"),),
               specular_roughness=0.8, specular_weight=0.3, base_diffuse_roughness=0.6),
        cloth("cloth-grey", "Cloth, grey", "#7E7B74", "#C9C5BC"),
        cloth("cloth-blue", "Cloth, blue", "#33507A", "#9FB4D2"),
        cloth("cloth-natural", "Canvas, natural", "#CDBF9F", "#F0E6CF"),
        sample("felt-grey", "Felt, grey", "fabric", "#6C6C6A", "wool pad", specular_weight=0.1,
               specular_roughness=0.9, base_diffuse_roughness=1.0, fuzz_weight=0.9,
               fuzz_color=hex_to_linear("#B9B8B4"), fuzz_roughness=0.8),
        sample("leather-black", "Leather-like, black", "fabric", "#1F1E1E", "grip seat", (leather,),
               specular_roughness=0.45),
        sample("leather-brown", "Leather-like, brown", "fabric", "#6B4128", "grip seat", (leather,),
               specular_roughness=0.45),
        sample("carbon-gloss", "Carbon twill, gloss", "fabric", "#232527", "cfrp fibre composite", carbon,
               specular_roughness=0.3, base_metalness=0.35, coat_weight=1.0, coat_roughness=0.02),
        sample("carbon-matt", "Carbon twill, matt", "fabric", "#232527", "cfrp fibre composite", carbon,
               specular_roughness=0.42, base_metalness=0.35),
    ]  # fmt: skip


def stones_and_papers() -> list[Appearance]:
    """Return the samples of stone, concrete and paper."""

    def rough(id: str, name: str, family: Family, color: str, words: str, made: str, roughness: float) -> Appearance:
        """Stone or paper with its made picture; `color` as sRGB hex, roughness 0 to 1."""
        return sample(id, name, family, color, words, (laid(made, "color"),), specular_roughness=roughness,
                      specular_weight=0.6, base_diffuse_roughness=0.5)  # fmt: skip

    return [
        rough("concrete", "Concrete", "stone", "#A3A19B", "floor cement wall", "concrete", 0.75),
        rough("granite", "Granite, honed", "stone", "#8E8C89", "surface plate", "granite", 0.3),
        rough("marble", "Marble, polished", "stone", "#DCDAD6", "table top", "marble", 0.12),
        sample("plaster-white", "Plaster, white", "stone", "#E9E6DE", "wall gypsum", (laid("cast", "bump", 0.03),),
               specular_roughness=0.9, specular_weight=0.3, base_diffuse_roughness=0.8),
        sample("ceramic-white", "Ceramic, ivory glazed", "stone", "#F0E6CF", "porcelain insulator",
               specular_roughness=0.4, coat_weight=1.0, coat_roughness=0.02),
        sample("ceramic-bisque", "Ceramic, alumina", "stone", "#E6D6BE", "technical substrate", specular_roughness=0.6,
               subsurface_weight=0.4, subsurface_color=hex_to_linear("#E6D6BE"), subsurface_radius=0.4),
        rough("paper", "Paper, white", "paper", "#EFECE4", "label sheet", "paper", 0.8),
        rough("cardboard", "Cardboard", "paper", "#BC9465", "box", "board", 0.8),
        sample("corrugated", "Corrugated board", "paper", "#BC9465", "box packaging",
               (laid("fluted board", "color"), laid("flute", "bump", 0.3)), specular_roughness=0.8, specular_weight=0.5,
               base_diffuse_roughness=0.6),
    ]  # fmt: skip


def glowing() -> list[Appearance]:
    """Return the samples that give light (cd/m²)."""
    return [
        _lit("lit-green", "Lit, green", "#0E2A14", 900.0, "led status on ok", (0.05, 1.0, 0.22)),
        _lit("lit-red", "Lit, red", "#2A0E0E", 700.0, "led status fault", (1.0, 0.04, 0.03)),
        _lit("lit-amber", "Lit, amber", "#2A1C0A", 800.0, "led status warning", (1.0, 0.38, 0.02)),
        _lit("lit-blue", "Lit, blue", "#0C1430", 500.0, "led status", (0.04, 0.18, 1.0)),
        _lit("lit-white", "Lit, white", "#22252A", 900.0, "led status", (0.93, 0.97, 1.0)),
        _lit("lit-display-cyan", "Lit, display cyan", "#08181C", 420.0, "segments digits", (0.25, 0.9, 1.0)),
        _lit("lit-display-red", "Lit, display red", "#1C0808", 420.0, "segments digits", (1.0, 0.08, 0.05)),
        _lit("lit-screen", "Lit, screen white", "#181A1C", 300.0, "display backlight", (0.78, 0.9, 1.0)),
        _lit("lamp-warm", "Lamp, warm 2700 K", "#2A2620", 4000.0, "bulb light", black_body(2700.0)),
        _lit("lamp-neutral", "Lamp, neutral 4000 K", "#2A2826", 4000.0, "tube light", black_body(4000.0)),
        _lit("lamp-cool", "Lamp, cool 6500 K", "#26282A", 4000.0, "tube light", black_body(6500.0)),
    ]


def all_samples() -> list[Appearance]:
    """Return all samples, family by family."""
    return [
        *metals(), *plastics(), *paints(), *see_through(), *rubbers(), *grown_and_woven(), *stones_and_papers(),
        *glowing(),
    ]  # fmt: skip
