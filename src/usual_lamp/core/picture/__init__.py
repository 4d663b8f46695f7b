"""Layers to a finished picture: denoising, exposure, tone curve, encoders."""

from usual_lamp.core.picture.develop import FastDenoiser, Layers, denoise, develop, finish, to_jpeg, to_png
from usual_lamp.core.picture.tone import Image

__all__ = ["FastDenoiser", "Image", "Layers", "denoise", "develop", "finish", "to_jpeg", "to_png"]
