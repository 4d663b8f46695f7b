"""Revision B of the pump: new knob and feet, two more screws, one bracket fewer, and fresh colours for nothing else."""

from __future__ import annotations

import math

from OCP.TopoDS import TopoDS_Shape

from demo.build import Group, Part, panel_places
from demo.solids import at, compound, cut, disc, fillet, moved, turned_part


def knob_body() -> TopoDS_Shape:
    """Wider and higher, with six finger hollows in place of flutes."""
    body = fillet(turned_part([(0, 0), (17.0, 0), (17.0, 2.6), (15.6, 3.6), (14.2, 14), (0, 14)]), 1.2, at(2, 14))
    hollows = [
        moved(disc(5.0, 20), 18.6 * math.cos(math.tau * k / 6), 18.6 * math.sin(math.tau * k / 6), 3.8)
        for k in range(6)
    ]
    return cut(body, compound(hollows))


def foot() -> TopoDS_Shape:
    """Wider at the ground, with a groove."""
    return turned_part(
        [(0, -9), (11.2, -9), (12.4, -8), (12.4, -6), (11.4, -5.2), (11.4, -4.4), (12.0, -3.8), (10.8, 0), (0, 0)]
    )


def revised(group: Group) -> Group:
    """The tree of revision A turned into that of B."""
    children: list[Part | Group] = []
    for child in group.children:
        if isinstance(child, Group):
            children.append(revised(child))
        elif child.name == "Knob body":
            children.append(Part(child.name, knob_body, child.color, child.places, child.front))
        elif child.name == "Foot":
            children.append(Part(child.name, foot, child.color, child.places))
        elif child.name == "Screw M3 x 8":
            more = panel_places(4.5, [(-20.0, 0.5), (20.0, 0.5)])
            children.append(Part(child.name, child.make, child.color, [*child.places, *more], child.front))
        elif child.name != "Motor bracket":
            children.append(child)
    return Group(group.name, children)
