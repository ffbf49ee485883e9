"""What stands at the end of each help text: two examples of a command, and at the root the exit codes."""

from __future__ import annotations

QUESTIONS = {
    "demo": "What does this do? Copies a sample codebase to a folder and runs the whole way on it.",
    "scan": "Where is my code hard-wired, and how bad is it?",
    "rank": "Which classes first?",
    "about": "What do I need to know of this class: who makes it, who uses it, what does it drag in?",
    "trace": "Where does this call go, layer by layer, and what really runs behind each interface?",
    "layers": "What are the layers, and what crosses them the wrong way?",
    "wiring": "What is registered, for how long, and what breaks at start-up?",
    "plan": "In which steps do I take it apart, and what does each gain?",
    "step": "Carry the next step out: change, check, and keep it or take it back.",
    "mark": "Keep how it stands today, to hold later states against.",
    "drift": "Is it getting better or worse, and what is new?",
    "report": "Can we look at it together? One page with all of it, to open, mail or print.",
    "fleet": "Where is it worst among many codebases, and what do they share?",
    "editor": "What is found, what stands here, what would the step look like: for editors that speak the open protocol (LSP).",
    "explain": "What does this word mean, why does it matter, and what is done about it?",
    "export": "Give me the data: bonds, declared types, registrations, "
    "the graph of classes, or the JSON Schema of all outputs.",
    "setup": "Write an isodesm.toml with what was inferred, for me to correct.",
}
"""Command to the question that it answers, as its own help text begins, in the order in which they are listed."""
EXAMPLES = {
    "demo": ("demo", "demo --language python forecast"),
    "scan": ("scan src", "scan src --layer application --fail-on error"),
    "rank": ("rank src --top 20", "rank src --by ripple --since '2 years ago'"),
    "about": ("about BulletinService src", "about BulletinService.publish src --format json"),
    "trace": ("trace BulletinService.publish src", "trace MorningRound.run src --bind Bell=MailBell --figure trace.svg"),
    "layers": ("layers src", "layers src --figure layers.svg"),
    "wiring": ("wiring src", "wiring src --root BulletinPage"),
    "plan": ("plan src --focus BulletinService", "plan src --technique extract-interface --format patch -o patches"),
    "step": ("step src", "step src --write --check 'make test' --commit"),
    "mark": ("mark src", "mark src -o release.mark.json"),
    "drift": ("drift src --since main --fail-on new", "drift src --over 1y --figure course.svg"),
    "report": ("report src -o report.html", "report src --over 1y --mark isodesm.mark.json --title 'The bulletin desk'"),
    "fleet": ("fleet repositories/*", "fleet trees.txt --shared --store facts --scheduler tcp://head:8786"),
    "editor": ("editor", "editor --port 7341"),
    "explain": ("explain service-lookup", "explain strain --format markdown"),
    "export": ("export bonds src --format csv -o bonds.csv", "export schema"),
    "setup": ("setup src", "setup src -o isodesm.toml"),
}
"""Command to what may follow the program's name."""
EXIT_CODES = {
    0: "done",
    1: "a gate failed: --fail-on, --strict, a check that turned red",
    2: "wrong usage or settings",
    3: "nothing to read",
    70: "a mistake of ours, with the file that tells us of it",
    74: "no room to write",
    130: "stopped by you",
}


def examples_of(command: str) -> str:
    """The examples of a command, as its help text ends with them."""
    return "\b\nExamples:\n" + "\n".join(f"  isodesm {each}" for each in EXAMPLES[command])


def exit_codes() -> str:
    """The exit codes, as the help text of the program ends with them."""
    return "\b\nExit codes:\n" + "\n".join(f"  {code:<4} {said}" for code, said in EXIT_CODES.items())
