"""The facts cache: what is kept, shared, thrown away and bounded."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
import zlib
from pathlib import Path

from isodesm.codebase.reading import read
from isodesm.facts.records import digest_of
from isodesm.reading import cache as module
from isodesm.reading.cache import CACHE_VERSION, FILE_NAME, Cache, Row, key_of
from isodesm.settings import Settings
from tests.support import TreeTest

SOURCE = {"a/A.java": "package a; class A { B b = new B(); }", "a/B.java": "package a; class B { }"}


class CacheTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        self.folder = self.root.parent / "cache"

    def bonds(self, **settings: object) -> list:
        codebase = read(self.root, Settings(cache_folder=str(self.folder), **settings))
        self.trouble, self.remarks = codebase.trouble, codebase.remarks
        return [codebase.bond(row) for row in codebase.rows_in_order()]

    def kept(self) -> int:
        with sqlite3.connect(self.folder / FILE_NAME) as connection:
            return connection.execute("SELECT count(*) FROM facts").fetchone()[0]

    def test_a_second_run_reads_nothing_and_says_the_same(self) -> None:
        self.write(SOURCE)
        first = self.bonds()
        self.assertEqual(self.kept(), 2)
        reading = sys.modules["isodesm.reading.files"]
        self.addCleanup(setattr, reading, "read_packed", reading.read_packed)
        reading.read_packed = lambda *arguments: self.fail("a file was read again")
        self.assertEqual(self.bonds(), first)

    def test_a_changed_or_moved_file_is_read_anew(self) -> None:
        self.write(SOURCE)
        self.bonds()
        self.write({"a/B.java": "package a; class B { A a = new A(); }"})
        self.assertEqual(sum(1 for bond in self.bonds() if bond.kind == "creation"), 2)
        (self.root / "a/B.java").rename(self.root / "a/C.java")
        self.assertIn("a/C.java", {bond.file for bond in self.bonds()})
        self.assertEqual(self.kept(), 4)

    def test_keys_depend_on_language_path_and_content(self) -> None:
        keys = {
            key_of("java", "A.java", digest_of(b"x")),
            key_of("php", "A.java", digest_of(b"x")),
            key_of("java", "B.java", digest_of(b"x")),
            key_of("java", "A.java", digest_of(b"y")),
        }
        self.assertEqual(len(keys), 4)

    def test_damage_and_other_versions_are_made_good(self) -> None:
        def newer(path: Path) -> None:
            with sqlite3.connect(path) as connection:
                connection.execute(f"PRAGMA user_version={CACHE_VERSION + 1}")

        def torn(path: Path) -> None:
            content = path.read_bytes()
            path.write_bytes(content[:5000] + b"\xff" * (len(content) - 5000))

        self.write(SOURCE)
        wanted = self.bonds()
        for spoil, words in (
            (lambda path: path.write_bytes(b"garbage" * 900), "made anew"),
            (newer, "is wanted"),
            (torn, "made anew"),
        ):
            with self.subTest(words=words):
                spoil(self.folder / FILE_NAME)
                self.assertEqual(self.bonds(), wanted)
                self.assertIn(words, self.remarks[0])
                self.assertEqual((self.bonds(), self.trouble, self.remarks), (wanted, (), ()))

    def test_a_row_of_other_content_is_read_anew(self) -> None:
        self.write(SOURCE)
        wanted = self.bonds()
        with sqlite3.connect(self.folder / FILE_NAME) as connection:
            kept = connection.execute("SELECT sites FROM facts ORDER BY key").fetchall()
            connection.execute("UPDATE facts SET sites = ?", (zlib.compress(b"what nobody put there"),))
        self.assertEqual((self.bonds(), self.trouble, self.remarks), (wanted, (), ()))
        with sqlite3.connect(self.folder / FILE_NAME) as connection:
            self.assertEqual(connection.execute("SELECT sites FROM facts ORDER BY key").fetchall(), kept)

    def test_without_a_place_for_it_the_run_goes_on(self) -> None:
        self.write(SOURCE)
        self.folder.write_text("a file where the folder should be")
        self.assertTrue(self.bonds())
        self.assertIn("no cache is used", self.remarks[0])

    def test_rows_used_long_ago_go_first(self) -> None:
        cache = Cache(self.folder)
        for day in range(4):
            cache._day = day
            cache.put([Row(bytes([day]) * 20, bytes(50_000 + day), bytes(range(256)) * 400)])
        cache.touch([b"\0" * 20])
        cache._day = module.TOUCH_AFTER * 2
        cache.touch([b"\0" * 20])
        cache.limit = (self.folder / FILE_NAME).stat().st_size - 1
        size = cache._connection.execute("SELECT sum(size) FROM facts").fetchone()[0]
        cache.limit = int(size * 0.7)
        cache.close()
        with sqlite3.connect(self.folder / FILE_NAME) as connection:
            left = {key[0] for (key,) in connection.execute("SELECT key FROM facts")}
        self.assertIn(0, left)
        self.assertNotIn(1, left)

    def test_two_runs_at_once_and_one_that_is_killed(self) -> None:
        self.write(
            {f"p/C{number}.java": f"package p; class C{number} {{ Object o = new C{number}(); }}" for number in range(300)}
        )
        command = [sys.executable, "-m", "isodesm", "export", "bonds", ".", "--cache-dir", str(self.folder), "--quiet"]
        runs = [subprocess.Popen(command, cwd=self.root, stdout=subprocess.PIPE) for _ in range(3)]
        runs[2].kill()
        outputs = [run.communicate(timeout=120)[0] for run in runs]
        self.assertEqual(outputs[0], outputs[1])
        self.assertEqual(outputs[0].count(b"creation"), 300)
        self.assertEqual(subprocess.run(command, cwd=self.root, capture_output=True, timeout=120).stdout, outputs[0])

    def test_an_answer_is_given_again_until_something_changes(self) -> None:
        """The same bytes, without a file being read, for another option or width, too; another file is read."""
        self.write(SOURCE)
        options = ("scan", "--cache-dir", str(self.folder))
        first = self.run_program(*options)
        with sqlite3.connect(self.folder / FILE_NAME) as connection:
            connection.execute("DELETE FROM facts")
        self.assertEqual(self.run_program(*options).stdout, first.stdout)
        self.assertEqual(self.kept(), 0)
        narrow = self.run_program(*options, COLUMNS="60")
        self.assertNotEqual(narrow.stdout, first.stdout)
        self.assertIn("excused as", self.run_program(*options, "--excused").stdout)
        self.assertEqual(self.kept(), 0)
        self.write({"a/B.java": SOURCE["a/B.java"] + "\n"})
        self.run_program(*options)
        self.assertGreater(self.kept(), 0)

    def test_remarks_and_gates_are_given_again_too(self) -> None:
        self.write({"A.java": b'class A { java.util.Random r = new java.util.Random(); String s = "\xe9"; }'})
        runs = [self.run_program("scan", "--fail-on", "warning", "--cache-dir", str(self.folder)) for _ in range(2)]
        self.assertEqual([(run.returncode, run.stdout, run.stderr) for run in runs], [(1, runs[0].stdout, runs[0].stderr)] * 2)
        self.assertIn("Latin-1", runs[0].stderr)
        self.assertIn("--fail-on warning", runs[0].stderr)

    def test_the_command_line_can_do_without(self) -> None:
        self.write(SOURCE)
        self.run_program("export", "bonds", "--no-cache", "--cache-dir", str(self.folder))
        self.assertFalse(self.folder.exists())
        self.run_program("export", "bonds", "--cache-dir", str(self.folder))
        self.assertEqual(self.kept(), 2)
