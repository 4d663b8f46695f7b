"""CIELAB, and how different two colours look: CIEDE2000 (CIE 142-2001; formulas after Sharma, Wu and Dalal, 2005)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
TO_XYZ = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]]
)
"""Linear Rec. 709 to CIE XYZ, white D65."""
WHITE = TO_XYZ.sum(axis=1)


def linear_to_lab(colors: Array) -> Array:
    """(N, 3) linear Rec. 709 to CIELAB under D65 (CIE 15)."""
    relative = np.asarray(colors, float) @ TO_XYZ.T / WHITE
    cut = (6 / 29) ** 3
    f = np.where(relative > cut, np.cbrt(relative), relative * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)


def lab_to_linear(colors: Array) -> Array:
    """(N, 3) CIELAB under D65 (CIE 15) to linear Rec. 709; outside 0..1 where sRGB cannot show the colour."""
    light, a, b = np.asarray(colors, float).T
    y = (light + 16) / 116
    f = np.stack([y + a / 500, y, y - b / 200], axis=1)
    relative = np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29))
    return np.asarray((relative * WHITE) @ np.linalg.inv(TO_XYZ).T)


def ciede2000(one: Array, two: Array) -> Array:
    """Colour difference of pairs of CIELAB colours, (N, 3) each; all weights 1."""
    one, two = np.atleast_2d(np.asarray(one, float)), np.atleast_2d(np.asarray(two, float))
    l1, l2 = one[:, 0], two[:, 0]
    mean = (np.hypot(one[:, 1], one[:, 2]) + np.hypot(two[:, 1], two[:, 2])) / 2
    g = 0.5 * (1 - np.sqrt(mean**7 / (mean**7 + 25.0**7)))
    a1, a2 = (1 + g) * one[:, 1], (1 + g) * two[:, 1]
    c1, c2 = np.hypot(a1, one[:, 2]), np.hypot(a2, two[:, 2])
    h1, h2 = (np.degrees(np.arctan2(b, a)) % 360 for a, b in ((a1, one[:, 2]), (a2, two[:, 2])))
    grey = c1 * c2 == 0
    turn = h2 - h1
    dh = np.where(grey, 0.0, turn - 360 * np.sign(turn) * (np.abs(turn) > 180))
    d_light, d_chroma, d_hue = l2 - l1, c2 - c1, 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))
    light, chroma = (l1 + l2) / 2, (c1 + c2) / 2
    apart = np.abs(h1 - h2) > 180
    hue = np.where(grey, h1 + h2, (h1 + h2 + np.where(apart, np.where(h1 + h2 < 360, 360, -360), 0)) / 2)
    t = 1 - 0.17 * _cos(hue - 30) + 0.24 * _cos(2 * hue) + 0.32 * _cos(3 * hue + 6) - 0.20 * _cos(4 * hue - 63)
    s_light = 1 + 0.015 * (light - 50) ** 2 / np.sqrt(20 + (light - 50) ** 2)
    s_chroma, s_hue = 1 + 0.045 * chroma, 1 + 0.015 * chroma * t
    spread = 30 * np.exp(-(((hue - 275) / 25) ** 2))
    rotation = -2 * np.sqrt(chroma**7 / (chroma**7 + 25.0**7)) * np.sin(np.radians(2 * spread))
    x, y, z = d_light / s_light, d_chroma / s_chroma, d_hue / s_hue
    return np.asarray(np.sqrt(x * x + y * y + z * z + rotation * y * z))


def _cos(degrees: Array) -> Array:
    return np.asarray(np.cos(np.radians(degrees)))
