"""A factory is injected where arguments are known at run time only."""
