"""What can be said of a picture without looking at it."""

import numpy as np


def share_of_orange(picture: np.ndarray) -> float:
    """Share of clearly orange pixels of an (H, W, 3) sRGB picture."""
    r, g, b = (picture[..., k].astype(float) for k in range(3))
    return float(np.mean((r > 90) & (r > 1.5 * g) & (r > 2.5 * b)))
