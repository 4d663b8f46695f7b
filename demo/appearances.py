"""What the demo review's parts are made of: part name pattern to sample on the shelf, later ones win."""

DEMO_APPEARANCES: list[tuple[str, str]] = [
    ("Case*, cast", "powder-slate"),
    ("Head body, cast", "aluminium-blasted"),
    ("Screw*", "steel-machined"),
    ("Roller*", "steel-machined"),
    ("Status ring", "steel-machined"),
    ("Knob cap", "aluminium-blasted"),
    ("Nameplate", "aluminium-blasted"),
    ("Rotor", "anodised-orange"),
    ("Hose 6 x 9", "silicone-milky"),
    ("Hose barb", "brass-turned"),
    ("Head cover", "polycarbonate-clear"),
    ("Foot", "rubber-black"),
    ("Panel", "abs-graphite"),
    ("Status lens", "lit-green"),
]
