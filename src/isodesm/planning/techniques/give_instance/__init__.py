"""An injectable adapter in the place of a static class."""
