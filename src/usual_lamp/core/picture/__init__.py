"""Layers to a finished picture: denoising, exposure, tone curve, encoders."""

from usual_lamp.core.picture.develop import (
    Clean,
    FastDenoiser,
    Layers,
    denoise,
    develop,
    finish,
    finish_on_nothing,
    to_jpeg,
    to_png,
)
from usual_lamp.core.picture.tone import Image

__all__ = [
    "Clean",
    "FastDenoiser",
    "Image",
    "Layers",
    "denoise",
    "develop",
    "finish",
    "finish_on_nothing",
    "to_jpeg",
    "to_png",
]
