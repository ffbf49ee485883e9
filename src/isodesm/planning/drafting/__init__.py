"""The code as a plan has it so far, and what becomes of each file: amendments over the original text."""
