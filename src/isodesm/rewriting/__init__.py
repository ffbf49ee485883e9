"""Carries planned steps out on the disk: all of a step or nothing, checked, and taken back where it turns red."""
