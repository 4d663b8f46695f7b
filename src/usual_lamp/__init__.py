"""Usual Lamp: photoreal design-review stills from CAD assemblies."""

__version__ = "0.1.0"
