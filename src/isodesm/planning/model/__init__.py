"""The records that plans are made of."""
