"""Sets the product up, starts it, stops it and tests it. Standard library only: it runs first."""
