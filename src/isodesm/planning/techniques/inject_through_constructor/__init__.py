"""A constructor takes what its class created, or was given late."""
