"""Words that findings of all families use."""

EFFECT_WORDS = {
    "network": "the network",
    "database": "a database",
    "file": "the file system",
    "process": "another process",
    "clock": "the clock",
    "random": "random numbers",
    "sleep": "a pause",
    "environment": "the environment",
    "console": "the console",
    "thread": "threads",
    "gui": "the screen",
}
