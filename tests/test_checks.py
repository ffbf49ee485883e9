"""What the benchmark asks of code after each step: known breaks turn red, and the same code without them does not."""

from __future__ import annotations

import importlib.util
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from benchmarks.applications import CHECKED_BY

CHECKS = {
    "imports": [sys.executable, f"{CHECKED_BY}/python.py", "{tree}", "--stand-ins"],
    "declarations": ["php", f"{CHECKED_BY}/php.php", "{tree}"],
    "loading": ["php", f"{CHECKED_BY}/loading.php", "{tree}", "{tree}/load.php"],
}
LOADER = "<?php\nspl_autoload_register(function ($name) {\n    @include __DIR__ . '/' . strtolower($name) . '.php';\n});\n"
BELL = (
    "<?php\nnamespace Hut;\nclass Bell implements Ringing\n{\n    public function ring(string $text): void\n    {\n    }\n}\n"
)
RINGING = "<?php\nnamespace Hut;\ninterface Ringing\n{\n    public function ring(string $text): void;\n}\n"

CASES = [
    ("imports", "sound", {"hut/__init__.py": "", "hut/a.py": "import missing\n\n\nclass A(missing.Base):\n    pass\n"}, ""),
    (
        "imports",
        "a circle",
        {"hut/__init__.py": "", "hut/a.py": "from hut.b import B\n\nA = B\n", "hut/b.py": "from hut.a import A\n\nB = 1\n"},
        "circular import",
    ),
    (
        "imports",
        "a name for type checkers in a head",
        {
            "hut/__init__.py": "",
            "hut/a.py": "from typing import TYPE_CHECKING\nif TYPE_CHECKING:\n    from x import T\n\n\n"
            "def f(t: T):\n    return t\n",
        },
        "name 'T' is not defined",
    ),
    (
        "imports",
        "two metaclasses",
        {
            "hut/__init__.py": "",
            "hut/a.py": "from typing import Protocol\n\n\nclass M(type):\n    pass\n\n\nclass B(metaclass=M):\n    pass\n\n\n"
            "class P(Protocol):\n    pass\n\n\nclass C(B, P):\n    pass\n",
        },
        "metaclass conflict",
    ),
    (
        "imports",
        "a name that nothing defines",
        {"hut/__init__.py": "", "hut/a.py": "def f():\n    return t\n"},
        "undefined name 't'",
    ),
    ("declarations", "sound", {"bell.php": BELL, "ringing.php": RINGING}, ""),
    ("declarations", "no interface", {"bell.php": BELL}, "has a base that nobody declares"),
    (
        "declarations",
        "a member that is missing",
        {"bell.php": BELL.replace("ring(", "rung("), "ringing.php": RINGING},
        "does not have ring",
    ),
    (
        "declarations",
        "another signature",
        {"bell.php": BELL.replace("string $text", "int $text"), "ringing.php": RINGING},
        "takes int where it is string",
    ),
    (
        "declarations",
        "a type in a closure",
        {"bell.php": BELL, "ringing.php": RINGING, "page.php": "<?php\n$f = fn (Bell $bell) => $bell;\n"},
        "Bell is declared nowhere",
    ),
    (
        "declarations",
        "too few arguments",
        {
            "bell.php": BELL.replace("    public", "    public function __construct(int $loud)\n    {\n    }\n    public", 1),
            "ringing.php": RINGING,
            "page.php": "<?php\nnew \\Hut\\Bell();\n",
        },
        "is not given its loud",
    ),
    ("loading", "sound", {"load.php": LOADER, "bell.php": "<?php\nclass Bell\n{\n}\n"}, ""),
    (
        "loading",
        "a file spelled otherwise",
        {"load.php": LOADER, "Bell.php": "<?php\nclass Bell\n{\n}\n"},
        "not found by its name",
    ),
]


class ChecksTest(unittest.TestCase):
    """Each check says what is amiss, and nothing of what is not."""

    def test_known_breaks_turn_red(self) -> None:
        for check, name, files, said in CASES:
            with self.subTest(f"{check}: {name}"), tempfile.TemporaryDirectory() as folder:
                self._needs(check)
                for path, text in files.items():
                    target = Path(folder, path)
                    target.parent.mkdir(parents=True, exist_ok=True)
                    target.write_text(text)
                command = [word.replace("{tree}", folder) for word in CHECKS[check]]
                done = subprocess.run(command, capture_output=True, text=True, check=False)
                self.assertEqual(done.stderr, "")
                if said:
                    self.assertIn(said, done.stdout)
                else:
                    self.assertEqual(done.stdout, "")

    def _needs(self, check: str) -> None:
        if check == "imports" and importlib.util.find_spec("pyflakes") is None:
            self.skipTest("no pyflakes here")
        if check != "imports" and not (shutil.which("php") and Path("/usr/share/php/PhpParser").is_dir()):
            self.skipTest("no PHP with a parser of its own here")


if __name__ == "__main__":
    unittest.main()
