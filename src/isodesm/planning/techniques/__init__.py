"""The techniques that users know by name, a module or a folder each."""
