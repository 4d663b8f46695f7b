"""From sums of samples to a finished picture: denoise, exposure, tone curve, encoding. Knows only layers."""

from usual_lamp.core.picture.develop import Layers, develop, to_jpeg, to_png

__all__ = ["Layers", "develop", "to_jpeg", "to_png"]
