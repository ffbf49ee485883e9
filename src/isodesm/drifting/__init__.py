"""How a codebase changes: marks of a state, what is new and gone since one, and the course over many commits."""
