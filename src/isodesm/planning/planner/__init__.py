"""The order in which steps are planned, and the plan that they make."""
