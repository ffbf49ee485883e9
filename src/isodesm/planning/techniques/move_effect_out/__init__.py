"""Calls outside, and tables of data, go behind a class of their own."""
