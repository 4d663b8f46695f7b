"""The demo assembly: a made-up bench-top dosing pump, modelled in code and written as a real STEP file."""
