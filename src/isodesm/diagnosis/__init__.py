"""Findings, and what was excused: hard bonds, faults of wiring, form and layering."""
