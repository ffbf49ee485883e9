"""What does not fit together in what containers and constructors are told."""
