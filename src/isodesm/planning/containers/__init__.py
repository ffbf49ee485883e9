"""How each kind of container is told what it shall inject."""
