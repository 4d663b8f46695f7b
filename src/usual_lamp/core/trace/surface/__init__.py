"""The surface model: lobes, the tables that kernels read, and what an appearance comes down to there."""
