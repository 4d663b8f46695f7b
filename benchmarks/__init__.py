"""One script a question; each prints ratios measured in one run. `./lamp measure` runs them all."""
