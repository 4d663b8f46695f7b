"""Use cases: one function = one thing a user does = one transaction."""
