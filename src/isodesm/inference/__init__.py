"""What linked code is for: evidence, roles, effects, layers, look-ups, registrations, injection, wiring."""
