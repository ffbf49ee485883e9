"""An interface for a class that others depend on."""
