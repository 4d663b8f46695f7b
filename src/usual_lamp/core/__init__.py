"""Computation only: no web, database or scheduler code lives below this package."""
