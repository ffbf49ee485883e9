"""All English that planning says: why something is left, what steps are called, what stands in users' code."""
