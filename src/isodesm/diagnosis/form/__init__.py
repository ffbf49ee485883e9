"""Members and classes that do two jobs, and layers that are crossed the wrong way."""
