"""What stands at the end of each help text: two examples of a command, and at the root the exit codes."""

from __future__ import annotations

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
