"""The farm: long work on Dask. Rows are the truth; whatever runs here can be killed and goes on from them."""
