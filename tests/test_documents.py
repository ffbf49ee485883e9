"""What is written for readers is as the program is: help texts, the man page, the reference of fields, tables at any width."""

from __future__ import annotations

import contextlib
import io
import json
import re
import shlex
import subprocess
import unittest
from pathlib import Path

from typer.testing import CliRunner

from isodesm.cli.app import app
from isodesm.cli.commands import command
from isodesm.cli.examples import EXAMPLES, EXIT_CODES, QUESTIONS
from publishing import screenshots
from publishing.fields import with_reference
from publishing.manual import man_page
from tests.support import CLASSES, DEMO, TreeTest, part_of, share

DOCS = Path(__file__).parent.parent / "docs"
WIDTHS = share("pictures", (60, 120), (60, 80, 100, 120, 200))


class HelpTest(TreeTest):
    def test_examples_are_understood(self) -> None:
        self.assertEqual(list(EXAMPLES), list(QUESTIONS))
        for name, examples in EXAMPLES.items():
            for each in examples:
                with self.subTest(each):
                    said, *words = shlex.split(each)
                    self.assertEqual(said, name)
                    command(name).make_context(name, words, resilient_parsing=False)

    def test_the_list_of_commands_says_what_each_says_of_itself(self) -> None:
        for name, said in QUESTIONS.items():
            self.assertEqual(command(name).help.split("\n\n")[0], said)

    def test_help_ends_with_them_and_with_the_exit_codes(self) -> None:
        self.assertIn("isodesm scan src\n", self.run_program("scan", "-h").stdout)
        told = self.run_program("-h").stdout
        for code in EXIT_CODES:
            self.assertRegex(told, rf"(?m)^ +{code} ")

    def test_wrong_words_are_answered_with_the_nearest(self) -> None:
        for arguments, near in (
            (("rank", "--by", "strian"), "`strain`"),
            (("scan", "--kind", "hard-wired-creaton"), "`hard-wired-creation`"),
            (("scan", "--layer", "aplication"), "`application`"),
            (("scan", "--formt", "json"), "--format"),
            (("plan", "--technique", "extract-interfce"), "`extract-interface`"),
            (("sacn",), "'scan'"),
        ):
            with self.subTest(arguments):
                done = self.run_program(*arguments, *((str(DEMO / "bulletin-desk"),) if len(arguments) > 1 else ()))
                self.assertEqual(done.returncode, 2)
                self.assertIn(near, done.stderr)


class PublishedTest(unittest.TestCase):
    def test_man_page_and_reference_are_up_to_date(self) -> None:
        """`make documents` writes them."""
        self.assertEqual((DOCS / "isodesm.1").read_text(), man_page())
        formats = (DOCS / "formats.md").read_text()
        self.assertEqual(formats, with_reference(formats))

    def test_every_field_says_what_it_means(self) -> None:
        rows = [line for line in (DOCS / "formats.md").read_text().splitlines() if line.startswith("| `")]
        self.assertGreater(len(rows), 400)
        self.assertEqual([row for row in rows if re.search(r"\|\s*\|$", row)], [])

    def test_links_lead_somewhere(self) -> None:
        for page in sorted(DOCS.rglob("*.md")):
            text = page.read_text()
            heads = {
                re.sub(r"[^\w\- ]", "", line.strip("# ").lower()).replace(" ", "-")
                for line in text.splitlines()
                if line[:1] == "#"
            }
            for target in re.findall(r"\]\(([^)]+)\)", text):
                path, _, part = target.partition("#")
                with self.subTest(page=page.name, target=target):
                    self.assertTrue(not path or "://" in path or (page.parent / path).exists())
                    self.assertTrue(path or part in heads)

    def test_the_man_page_is_read_without_a_word(self) -> None:
        try:
            done = subprocess.run(["groff", "-man", "-ww", "-z", str(DOCS / "isodesm.1")], capture_output=True, text=True)
        except FileNotFoundError:
            self.skipTest("groff is not installed")
        self.assertEqual(done.stderr, "")


class WidthTest(TreeTest):
    """Tables fit any width: nothing stands beyond it, and what is cut bears a sign."""

    def test_tables(self) -> None:
        for sample, (one, call) in CLASSES.items():
            tree = str(DEMO / sample)
            for words in (
                ("scan", tree),
                ("rank", tree),
                ("layers", tree),
                ("wiring", tree),
                ("plan", tree, "--brief"),
                ("about", one, tree),
                ("trace", call, tree),
            ):
                wide = self.words(words, 400)
                for width in WIDTHS:
                    with self.subTest(sample=sample, command=words[0], width=width):
                        lines = self.told(words, width).splitlines()
                        places = re.compile(r":\d+:\d+$")  # which terminals open, and which are never cut
                        long = [line for line in lines if len(line.rstrip()) > width and not places.search(line.rstrip())]
                        self.assertEqual(long, [])
                        unknown = {word for line in lines for word in re.findall(r"[\w./\\#$-]{4,}", line)} - wide
                        self.assertEqual(
                            {word for word in unknown if not any(word.strip("./\\#-") in each for each in wide)}, set()
                        )

    def told(self, command: tuple[str, ...], width: int) -> str:
        done = CliRunner().invoke(
            app, [*command, "-q"], env={"COLUMNS": str(width), "ISODESM_CACHE_DIR": str(self.root.parent / "cache")}
        )
        self.assertEqual(done.exit_code, 0, done.output)
        return done.stdout

    def words(self, command: tuple[str, ...], width: int) -> set[str]:
        told = self.told(command, width)
        return set(re.findall(r"[\w./\\#$-]{4,}", told))


@part_of("pictures")
class PicturesTest(unittest.TestCase):
    def test_pictures_show_what_the_program_shows(self) -> None:
        """`make screenshots` makes those anew that don't."""
        kept = json.loads(screenshots.TEXTS.read_text())
        self.assertEqual(set(kept), set(screenshots.PICTURES))
        for name, picture in screenshots.PICTURES.items():
            with self.subTest(name), contextlib.redirect_stderr(io.StringIO()):
                for folder in screenshots.samples():
                    text = screenshots.shown(picture, folder, folder / "figure.png")
                    self.assertEqual(screenshots.digest_of(text), kept[name], text)
                self.assertTrue((screenshots.FOLDER / f"{name}.png").is_file())


if __name__ == "__main__":
    unittest.main()
