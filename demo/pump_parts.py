"""The parts of the dosing pump. Front is -y, up is z; the case stands on z = 0 with its feet below."""

from __future__ import annotations

import math

from OCP.TopoDS import TopoDS_Shape

from demo.solids import (
    along,
    at,
    box,
    compound,
    cut,
    disc,
    fillet,
    fuse,
    moved,
    plate,
    prism,
    regular,
    text,
    tube,
    turned,
    turned_part,
)

WIDTH, HEIGHT, FRONT, SEAM, BACK = 184.0, 150.0, -55.0, 8.0, 55.0
HEAD_X, HEAD_Z = -28.0, 80.0
PANEL_X, PANEL_Z = 61.0, 78.0
COVER_SCREWS = 45.4


def shell(front: float, back: float, rim: float) -> TopoDS_Shape:
    """Half of the case: a box with all corners rounded, open towards the seam, 3 mm walls."""
    depth = back - front
    block = fillet(box((-WIDTH / 2, front, 0), (WIDTH, depth, HEIGHT)), 13.0, along(1))
    outer = fillet(block, 4.0, at(1, rim))
    hollow = fillet(box((-WIDTH / 2 + 3, front, 3), (WIDTH - 6, depth, HEIGHT - 6)), 10.0, along(1))
    return cut(outer, moved(hollow, y=3.0 if rim == front else -3.0))


def case_front() -> TopoDS_Shape:
    return shell(FRONT, SEAM - 0.4, FRONT)


def case_back() -> TopoDS_Shape:
    shape = shell(SEAM + 0.4, BACK, BACK)
    slot = fillet(box((-3, -15, -1.6), (12, 30, 3.2)), 1.59, along(0))
    slots = [moved(turned(slot, -18, (1, 0, 0)), -WIDTH / 2 - 2, 31, 42 + 9.0 * k) for k in range(8)]
    return cut(shape, *slots)


def seam_gasket() -> TopoDS_Shape:
    ring = fillet(box((-WIDTH / 2 + 0.8, SEAM - 1.5, 0.8), (WIDTH - 1.6, 3, HEIGHT - 1.6)), 12.0, along(1))
    hollow = fillet(box((-WIDTH / 2 + 6, SEAM - 3, 6), (WIDTH - 12, 6, HEIGHT - 12)), 8.0, along(1))
    return cut(ring, hollow)


def base_plate() -> TopoDS_Shape:
    return fillet(fillet(box((-84, -50, -5), (168, 100, 5.2)), 10, along(2)), 1.5, at(2, -5))


def foot() -> TopoDS_Shape:
    return turned_part([(0, -8), (8.4, -8), (9.6, -7.2), (10.4, -1.2), (10.4, 0), (0, 0)])


def head_body() -> TopoDS_Shape:
    """Cast ring with a port block on top, bored for the rotor; 24 mm deep, its back on y = 0."""
    ring = disc(52, 24)
    port = fillet(box((-31, 20, 0), (62, 44, 24)), 6, along(2))
    body = fuse(port, ring)
    body = fillet(body, 2.0, at(2, 24))
    bore = moved(disc(41, 20), z=5)
    return cut(body, bore)


def wear_plate() -> TopoDS_Shape:
    return cut(disc(40.6, 1.2, 0.3), disc(9, 4))


def head_cover() -> TopoDS_Shape:
    """Clear round cover, 5 mm, rim rounded, four screw holes."""
    cover = fillet(disc(49.8, 5), 1.4, at(2, 5))
    return cut(cover, *(moved(disc(2.3, 9), x, y, -2) for x, y in cover_screw_places()))


def cover_screw_places() -> list[tuple[float, float]]:
    return [
        (COVER_SCREWS * math.cos(math.radians(a)), COVER_SCREWS * math.sin(math.radians(a)))
        for a in (45, 135, 225, 315)
    ]


def rotor() -> TopoDS_Shape:
    """Three arms on a hub."""
    body = disc(12.5, 5)
    for angle in (90, 210, 330):
        arm = fillet(box((0, -6.4, 0), (28.6, 12.8, 5)), 6.39, lambda a, b: along(2)(a, b) and a[0] > 20)
        body = fuse(body, turned(arm, angle, (0, 0, 1)))
    body = fillet(body, 1.1, at(2, 5))
    holes = [moved(disc(2.2, 9), *place, -2) for place in roller_places()]
    return cut(body, *holes)


def roller_places() -> list[tuple[float, float]]:
    return [(22 * math.cos(math.radians(a)), 22 * math.sin(math.radians(a))) for a in (90, 210, 330)]


def roller() -> TopoDS_Shape:
    return turned_part([(2.2, 0), (6.6, 0), (7.3, 0.7), (7.3, 9.3), (6.6, 10), (2.2, 10)])


def roller_pin() -> TopoDS_Shape:
    head = fillet(turned_part([(0, 0), (4.3, 0), (4.3, 2.4), (0, 2.4)]), 0.5, at(2, 2.4))
    pin = fuse(head, moved(disc(2.1, 14), z=-14))
    return cut(pin, moved(prism(regular(6, 3.0), 4), z=0.9))


def hose() -> TopoDS_Shape:
    """From one port down, round under the rollers and up to the other."""
    radius, points = 33.4, [(-19.0, 64.0, 0.0), (-19.2, 54.0, 0.0), (-22.5, 41.0, 0.0)]
    for angle in range(148, 393, 12):
        a = math.radians(angle)
        points.append((radius * math.cos(a), radius * math.sin(a), 0.0))
    points += [(22.5, 41.0, 0.0), (19.2, 54.0, 0.0), (19.0, 64.0, 0.0)]
    return tube(points, 4.5, (0, -1, 0))


def hose_barb() -> TopoDS_Shape:
    """Hexagon, collar and four barbs, standing on z = 0."""
    hexagon = prism(regular(6, 13), 7)
    bevel = turned_part([(0, -1), (6.6, -1), (7.5, 0.6), (7.5, 6.4), (6.6, 8), (0, 8)])
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common

    profile = [(1.6, 6.0), (4.4, 6.0), (4.4, 9.5)]
    for k in range(4):
        z = 9.5 + 4.6 * k
        profile += [(4.9, z), (4.9, z + 0.5), (3.4, z + 4.6)]
    profile += [(3.0, 28.4), (1.6, 28.4)]
    return fuse(BRepAlgoAPI_Common(hexagon, bevel).Shape(), turned_part(profile))


def socket_screw(thread: float, length: float) -> TopoDS_Shape:
    """ISO 4762 proportions: head as high as the thread, 1.5 times as wide (rounded to 0.5), hexagon socket."""
    head_radius, socket = thread * 0.86, {3.0: 2.5, 4.0: 3.0}[thread]
    head = fillet(turned_part([(0, 0), (head_radius, 0), (head_radius, thread), (0, thread)]), 0.45, at(2, thread))
    body = fuse(head, moved(disc(thread / 2, length, 0.3), z=-length))
    return cut(body, moved(prism(regular(6, socket), thread), z=thread * 0.45))


def panel() -> TopoDS_Shape:
    shape = plate(50, 122, 4.5, 6, 1.4)
    return cut(shape, moved(fillet(box((-18.5, 0, 0), (37, 24, 9)), 2, along(2)), y=19, z=2.2))


def bezel() -> TopoDS_Shape:
    return cut(plate(42, 29, 2.4, 3.5, 0.9), moved(plate(35, 22, 9, 2), z=-2))


def display_glass() -> TopoDS_Shape:
    return plate(36.6, 23.6, 0.8, 1.8)


SEGMENTS = {"4": "bcfg", "2": "abdeg", "5": "acdfg"}


def segments() -> TopoDS_Shape:
    """The lit figures 42.5 and a level bar, as thin slabs."""
    bars = []
    for index, digit in enumerate("425"):
        x = -10.6 + 9.8 * index
        for name in SEGMENTS[digit]:
            bars.append(moved(segment(name), x=x))
    bars.append(moved(plate(1.5, 1.5, 0.3, 0.3), x=4.5, y=-5.2))
    bars += [moved(plate(2.0, 1.0, 0.3, 0.2), x=-13.6 + 2.6 * k, y=-8.6) for k in range(8)]
    return compound(bars)


def segment(name: str) -> TopoDS_Shape:
    half, t = 2.55, 0.68
    bar = prism([(-half, 0), (-half + t, t), (half - t, t), (half, 0), (half - t, -t), (-half + t, -t)], 0.3)
    upright = turned(bar, 90, (0, 0, 1))
    places = {
        "a": (0, 5.6),
        "g": (0, 0),
        "d": (0, -5.6),
        "f": (-2.8, 2.8),
        "b": (2.8, 2.8),
        "e": (-2.8, -2.8),
        "c": (2.8, -2.8),
    }
    x, y = places[name]
    return moved(bar if name in "agd" else upright, x=x, y=y + 1.2)


def status_lens() -> TopoDS_Shape:
    return turned_part([(0, 0), (3.2, 0), (3.2, 0.8), (2.6, 1.7), (1.4, 2.2), (0, 2.3)])


def status_ring() -> TopoDS_Shape:
    return turned_part([(3.3, 0), (4.4, 0), (4.4, 0.9), (4.0, 1.4), (3.3, 1.4)])


def push_button() -> TopoDS_Shape:
    return plate(14, 9, 3.4, 2.2, 1.2)


def knob_body() -> TopoDS_Shape:
    """Skirt with grip flutes."""
    body = fillet(turned_part([(0, 0), (15.2, 0), (15.2, 2.4), (13.6, 3.4), (12.9, 14), (0, 14)]), 0.8, at(2, 14))
    flutes = [
        moved(disc(1.5, 20), 14.1 * math.cos(math.tau * k / 24), 14.1 * math.sin(math.tau * k / 24), 3.6)
        for k in range(24)
    ]
    return cut(body, compound(flutes))


def knob_cap() -> TopoDS_Shape:
    cap = fillet(disc(10.6, 1.4), 0.5, at(2, 1.4))
    return cut(cap, moved(box((-0.8, 0, 0), (1.6, 8.2, 2)), y=2, z=0.9))


def knob_mark() -> TopoDS_Shape:
    return moved(box((-0.75, 0, 0), (1.5, 8.0, 0.55)), y=2.1, z=0.9)


def panel_print() -> TopoDS_Shape:
    """The white lettering of the panel, as one raised print."""
    lines = [("FLOW", 3.0, -12.0, 48.2), ("mL/min", 3.0, 10.5, 48.2), ("RUN", 3.0, -3.2, 9.6)]
    lines += [("PRIME", 2.6, -10.5, -13.6), ("START", 2.6, 10.5, -13.6), ("RATE", 3.0, 0, -56.0)]
    return compound([moved(text(words, size, 0.15), x, y) for words, size, x, y in lines])


def nameplate() -> TopoDS_Shape:
    return plate(92, 15, 1.0, 2.2, 0.3)


def port_print() -> TopoDS_Shape:
    return compound([moved(text("IN", 4.0, 0.15), x=-19), moved(text("OUT", 4.0, 0.15), x=19)])


def motor() -> TopoDS_Shape:
    return fuse(fillet(disc(21, 46), 2.0, at(2, 46)), moved(disc(4, 12), z=-12), moved(disc(9, 3), z=46))


def gear(teeth: int, module: float, width: float) -> TopoDS_Shape:
    """A spur gear with trapezoid teeth: enough for a part that is hardly ever seen."""
    points = []
    tip, root = module * (teeth + 2) / 2, module * (teeth - 2.5) / 2
    for k in range(teeth):
        a, step = math.tau * k / teeth, math.tau / teeth
        for radius, share in ((root, -0.34), (tip, -0.14), (tip, 0.14), (root, 0.34)):
            points.append((radius * math.cos(a + step * share), radius * math.sin(a + step * share)))
    return cut(prism(points, width), moved(disc(4, width + 2), z=-1))


def circuit_board() -> TopoDS_Shape:
    board = fillet(box((-36, -28, 0), (72, 56, 1.6)), 3, along(2))
    return cut(board, *(moved(disc(1.6, 5), x, y, -1) for x in (-31, 31) for y in (-23, 23)))


def capacitor() -> TopoDS_Shape:
    return fillet(disc(5, 12), 0.8, at(2, 12))


def standoff() -> TopoDS_Shape:
    return cut(prism(regular(6, 5.5), 12), moved(disc(1.5, 14), z=-1))


def bracket() -> TopoDS_Shape:
    return fillet(
        fuse(box((-20, 0, 0), (40, 3, 30)), box((-20, 0, 0), (40, 24, 3))),
        2.0,
        lambda a, b: along(0)(a, b) and a[1] > 2.5 and a[2] > 2.5,
    )


def transport_lock() -> TopoDS_Shape:
    return fillet(box((-6, -6, 0), (12, 12, 60)), 1.0)


def lifting_jig() -> TopoDS_Shape:
    return fillet(fuse(box((-110, -8, 0), (220, 16, 12)), box((-8, -8, 12), (16, 16, 40))), 2.0, along(1))
