"""Drawings, one module a drawing; only these import Matplotlib, and inside their functions."""
