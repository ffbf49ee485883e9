"""Edits of one file, as text and syntax; it knows no plan."""
