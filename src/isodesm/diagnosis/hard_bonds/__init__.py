"""Decisions at the place of use: the case, its excuses, its verdict and its words."""
