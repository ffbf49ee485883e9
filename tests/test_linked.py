"""What holds the files of a tree together: wrong edits of each kind are objected to, and right ones beside them are not."""

from __future__ import annotations

import shutil
import unittest

from isodesm.codebase.model import Codebase
from isodesm.facts.languages import language_of
from isodesm.planning.model.step import Written
from isodesm.planning.verification.linked import linked
from tests.support import TreeTest

PYTHON = {
    "desk/__init__.py": "",
    "desk/bell.py": "class Bell:\n    def __init__(self, name, loud=1):\n        self.name = name\n",
    "desk/hut.py": "from desk.bell import Bell\n\n\ndef warn():\n    return Bell('east')\n",
    "desk/report.py": "from typing import TYPE_CHECKING\n\nif TYPE_CHECKING:\n    from desk.hut import Hut\n\n\n"
    "def tell(hut: 'Hut'):\n    return hut\n",
}
JAVA = {
    "p/Bell.java": "package p; public class Bell { Bell(int loud) { } }",
    "p/Hut.java": "package p; public class Hut { Bell bell = new Bell(1); }",
    "p/Big.java": "package p; public class Big extends Bell { Big() { super(2); } }",
}
TYPESCRIPT = {"bell.ts": "export class Bell {}\nclass Rope {}\n", "hut.ts": "import { Bell } from './bell';\nnew Bell();\n"}

WRONG = {
    "a module would load one that loads it": (
        PYTHON,
        {"desk/bell.py": "from desk.hut import warn\n" + PYTHON["desk/bell.py"]},
        ("loading", "`bell.py` would import `hut.py`"),
    ),
    "a new module closes a circle": (
        PYTHON,
        {
            "desk/bell_port.py": "from desk.hut import warn\n",
            "desk/bell.py": "from desk.bell_port import warn\n" + PYTHON["desk/bell.py"],
        },
        ("loading", "which imports it while it is loaded"),
    ),
    "a package around a new module's import loads that again": (
        {
            **PYTHON,
            "desk/vc/__init__.py": "from desk.vc import git\n",
            "desk/vc/git.py": "x = 1\n",
            "desk/vc/port.py": "Port = 1\n",
        },
        {"desk/real.py": "from desk.vc.port import Port\n", "desk/vc/git.py": "from desk.real import Port\n"},
        ("loading", "`real.py` would import `__init__.py`"),
    ),
    "a name for type checkers is asked for in a head": (
        PYTHON,
        {"desk/report.py": PYTHON["desk/report.py"].replace("'Hut'", "Hut")},
        ("loading", "`Hut` would be asked for in `report.py`"),
    ),
    "a constructor takes more than a caller elsewhere passes": (
        PYTHON,
        {"desk/bell.py": PYTHON["desk/bell.py"].replace("loud=1", "loud, rope")},
        ("arguments", "`Bell` would be made from 1 argument in `hut.py`"),
    ),
    "a class makes itself, in a file that is called like it": (
        {"Bell.php": "<?php\nclass Bell { function __construct($a = 1) {} static function one() { return new self; } }\n"},
        {"Bell.php": "<?php\nclass Bell { function __construct($a) {} static function one() { return new self; } }\n"},
        ("arguments", "`Bell` would be made from 0 arguments"),
    ),
    "a constructor takes less": (
        JAVA,
        {"p/Bell.java": "package p; public class Bell { Bell() { } }"},
        ("arguments", "`Bell` would be made from 1 argument"),
    ),
    "a class below calls its parent as before": (
        {key: value for key, value in JAVA.items() if "Hut" not in key},
        {"p/Bell.java": "package p; public class Bell { Bell(int loud, int rope) { } }"},
        ("arguments", "in `Big.java`"),
    ),
    "a class below says nothing to its parent": (
        {"p/Bell.java": "package p; public class Bell { Bell() { } }", "p/Big.java": "package p; class Big extends Bell { }"},
        {"p/Bell.java": "package p; public class Bell { Bell(int loud) { } }"},
        ("arguments", "`Bell` would be made from 0 arguments in `Big.java`"),
    ),
    "a type that its package keeps to itself": (
        {"p/Bell.java": "package p; class Bell { }", "q/Hut.java": "package q; public class Hut { }"},
        {"q/Hut.java": "package q; import p.Bell; public class Hut { Bell bell; }"},
        ("visibility", "`Bell` would be named in `Hut.java`"),
    ),
    "a constructor that its package keeps to itself": (
        {"p/Bell.java": "package p; public class Bell { Bell() { } }", "q/Hut.java": "package q; import p.Bell; class Hut { }"},
        {"q/Hut.java": "package q; import p.Bell; class Hut { Object bell = f(Bell::new); }"},
        ("visibility", "`Bell` would be named in `Hut.java`"),
    ),
    "a namespace more, with a type of a name that is in use": (
        {
            "A.cs": "namespace P { public class Native { } public class Bell { } }",
            "B.cs": "namespace Q { public class Native { } public class Horn { } }",
            "C.cs": "using P; class Hut { Native native; }",
        },
        {"C.cs": "using P;\nusing Q; class Hut { Native native; Horn horn; }"},
        ("visibility", "`Native` in `C.cs` would mean one of two types"),
    ),
    "a name that a module keeps to itself": (
        TYPESCRIPT,
        {"tower.ts": "import { Rope } from './bell';\nexport type A = Rope;\n"},
        ("imports", "`Rope` would be taken out of `./bell` in `tower.ts`"),
    ),
}

RIGHT = {
    "an import for type checkers only": (
        PYTHON,
        {
            "desk/bell.py": "from typing import TYPE_CHECKING\nif TYPE_CHECKING:\n    from desk.hut import warn\n"
            + PYTHON["desk/bell.py"]
        },
    ),
    "an import in a function": (
        PYTHON,
        {
            "desk/bell.py": PYTHON["desk/bell.py"]
            + "\n    def go(self):\n        from desk.hut import warn\n\n        return warn()\n"
        },
    ),
    "what may be left out": (PYTHON, {"desk/bell.py": PYTHON["desk/bell.py"].replace("loud=1", "loud=1, rope=None")}),
    "caller and constructor together": (
        JAVA,
        {
            "p/Bell.java": "package p; public class Bell { Bell(int loud, int rope) { } }",
            "p/Hut.java": "package p; public class Hut { Bell bell = new Bell(1, 2); }",
            "p/Big.java": "package p; public class Big extends Bell { Big() { super(2, 3); } }",
        },
    ),
    "the old constructor stays": (
        JAVA,
        {"p/Bell.java": "package p; public class Bell { Bell(int a) { this(a, 2); } Bell(int a, int b) { } }"},
    ),
    "a type of the same package, and a public one": (
        {"p/Bell.java": "package p; class Bell { Bell() { } }", "q/Rope.java": "package q; public class Rope { }"},
        {"p/Hut.java": "package p; import q.Rope; class Hut { Bell bell = new Bell(); Rope rope = new Rope(); }"},
    ),
    "what a module hands out": (TYPESCRIPT, {"tower.ts": "import { Bell } from './bell';\nexport type A = Bell;\n"}),
    "what a step before has written": (
        TYPESCRIPT,
        {
            "bell-port.ts": "export interface BellPort {}\n",
            "tower.ts": "import { BellPort } from './bell-port';\nexport type A = BellPort;\n",
        },
    ),
}


class LinkedTest(TreeTest):
    """Files that are right each by itself, and do not fit together."""

    def made(self, files: dict[str, str]) -> Codebase:
        """A codebase of some files and no others."""
        shutil.rmtree(self.root)
        return self.read(dict(files))

    def objected(self, before: dict[str, str], after: dict[str, str]) -> list[tuple[str, str]]:
        """What is said against writing some files over others."""
        codebase = self.made(before)
        changed = [
            Written(language_of(path) or "", path, before.get(path, "").encode(), text.encode()) for path, text in after.items()
        ]
        return [(each.check, each.reason) for each in linked(codebase).objections(changed)]

    def test_wrong_edits_are_objected_to(self) -> None:
        for name, (before, after, (check, said)) in WRONG.items():
            with self.subTest(name):
                found = self.objected(before, after)
                self.assertTrue(any(each[0] == check and said in each[1] for each in found), found)

    def test_right_edits_are_not(self) -> None:
        for name, (before, after) in RIGHT.items():
            with self.subTest(name):
                self.assertEqual(self.objected(before, after), [])

    def test_steps_stand_on_those_before(self) -> None:
        codebase = self.made(PYTHON)
        first = Written("python", "desk/rope.py", b"", b"from desk.hut import warn\n")
        then = Written("python", "desk/bell.py", PYTHON["desk/bell.py"].encode(), b"from desk.rope import warn\n")
        start = linked(codebase)
        self.assertEqual(list(start.objections([first])), [])
        self.assertIn("loading", [each.check for each in start.after([first]).objections([then])])


if __name__ == "__main__":
    unittest.main()
