"""A function or an object is injected in the place of static calls and state."""
