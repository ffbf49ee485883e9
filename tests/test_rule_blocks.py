"""Which statements of a boundary class could stand elsewhere: what a block takes and leaves, and what keeps it where it is."""

from __future__ import annotations

from isodesm.diagnosis.form.boundary_rules import Bound
from isodesm.diagnosis.shared.reporting import Report
from isodesm.planning.analysis.rule_blocks import Blocks
from isodesm.planning.analysis.sources import Sources
from tests.support import TreeTest

FEE = "int fee = 450; if (length > 200) { fee = length * 12; } if (hour > 21) { fee += 175; } "


class BlocksTest(TreeTest):
    JAVA = {
        "as it is": (FEE + "return book.keep(fee);", [("fee", "length hour")]),
        "given before": ("int fee = 450; book.keep(1); " + FEE[15:] + "return book.keep(fee);", [("fee", "length fee hour")]),
        "two are left": (FEE + "int days = hour * 24; return book.keep(fee) + days;", [("fee", "length hour")]),
        "one block leaves two": (FEE.replace("fee += 175", "hour = 12; fee += 175") + "return book.keep(fee) + hour;", []),
        "nothing is left": (FEE + "return book.keep(1);", []),
        "leads out": (FEE.replace("fee += 175;", "return 1;") + "return book.keep(fee);", [("fee", "length")]),
        "asks who works for it": (FEE.replace("length * 12", "book.keep(length)") + "return book.keep(fee);", []),
        "has a field": (FEE.replace("175", "extra") + "return book.keep(fee);", []),
        "calls its own": (FEE.replace("length * 12", "own(length)") + "return book.keep(fee);", []),
        "has an effect": (FEE.replace("hour > 21", "System.nanoTime() > 21") + "return book.keep(fee);", []),
        "may fail with what must be declared": (FEE.replace("length * 12", "new Risk().go(1)") + "return book.keep(fee);", []),
        "begins without a value": (
            FEE.replace("int fee = 450;", "int fee; fee = 450;") + "return book.keep(fee);",
            [("fee", "length hour")],
        ),
        "uses the request": (FEE.replace("hour > 21", "request.length() > 21") + "return book.keep(fee);", []),
        "asks only whether it is there": ("int fee = 450; if (length == 0) { fee = 12; } return book.keep(fee);", []),
    }
    RULE = "fee = 450\nif length > 200:\n    fee = length * 12\n"
    LATE = "if hour > 21:\n    fee += 175\nreturn keep(fee)"
    PYTHON = {
        "as it is": (RULE + LATE, [("fee", "length hour")]),
        "perhaps without a value": ("if length > 200:\n    rate = 12\nkeep(1)\nfee = rate * 20\n" + LATE, []),
        "a text over lines": (RULE + '    note = """a\nb"""\n' + LATE, []),
    }

    def blocks(self, path: str, text: str, name: str) -> list[tuple[str, str]]:
        codebase = self.read({path: text})
        symbols = codebase.symbols
        number = next(n for n in range(len(symbols)) if symbols.types[n].name == name)
        index = next(at for at, member in enumerate(symbols.types[number].members) if member.name == "assign")
        bound = Bound(Report(codebase), number, index, symbols.types[number].members[index], any_effect=True)
        found = Blocks(Sources(codebase), bound, number, index).found()
        return [(each.left, " ".join(name for _, name in each.taken)) for each in found]

    def test_java(self) -> None:
        for title, (body, wanted) in self.JAVA.items():
            self.root = self.root.parent / title.replace(" ", "-")
            text = (
                "interface Book { int keep(int n); } class Risk { int go(int n) throws Exception { return n; } } "
                "class Fees { Book book; int extra; int own(int n) { return n; } "
                "int assign(int length, int hour, String request) throws Exception { "
                f"{body} }} }}"
            )
            with self.subTest(case=title):
                self.assertEqual(self.blocks("Fees.java", text, "Fees"), wanted)

    def test_python(self) -> None:
        for title, (body, wanted) in self.PYTHON.items():
            self.root = self.root.parent / title.replace(" ", "-")
            lines = body.replace("\n", "\n        ")
            text = f"class Fees:\n    def assign(self, length, hour, keep):\n        {lines}\n"
            with self.subTest(case=title):
                self.assertEqual(self.blocks("fees.py", text, "Fees"), wanted)
