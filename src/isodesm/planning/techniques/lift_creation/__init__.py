"""Creation moves up to the callers of a constructor."""
