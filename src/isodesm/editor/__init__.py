"""Answers where the code is written: an engine in a process of its own, and the open protocol of editors in front of it."""
