"""The facade over reading, linking and inference that every later room asks."""
