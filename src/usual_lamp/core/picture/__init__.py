"""Layers to a finished picture: denoising, exposure, grading, tone curve, encoders."""

from usual_lamp.core.picture.develop import FastDenoiser, Layers, cleaned, denoise, develop
from usual_lamp.core.picture.encoders import Form, to_jpeg, to_png, to_webp
from usual_lamp.core.picture.finishing import Clean, finish, finish_on_nothing
from usual_lamp.core.picture.tone import Image

__all__ = [
    "Clean",
    "FastDenoiser",
    "Form",
    "Image",
    "Layers",
    "cleaned",
    "denoise",
    "develop",
    "finish",
    "finish_on_nothing",
    "to_jpeg",
    "to_png",
    "to_webp",
]
