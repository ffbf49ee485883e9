"""Names to types and sites to bonds, by each language's own rules."""
