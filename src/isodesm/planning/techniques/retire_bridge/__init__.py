"""A legacy constructor that nobody calls is removed."""
