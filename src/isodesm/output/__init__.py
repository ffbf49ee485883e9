"""Formats over the results of the core. One module a format; none computes."""
