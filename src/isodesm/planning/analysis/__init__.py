"""Read-only questions about a codebase that plans are made from."""
