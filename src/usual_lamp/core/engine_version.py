"""The version of the light transport, kept with every still. Apart from `trace`, so that naming it needs no tracer."""

ENGINE_VERSION = "19"
"""Raised whenever a change makes the same inputs give a different picture."""
