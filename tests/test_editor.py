"""The server for editors, by a real client of the open protocol over pipes."""

from __future__ import annotations

import asyncio
import json
import os
import random
import shutil
import signal
import socket
import subprocess
import sys
import time
import unittest
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

from isodesm.editor.engine import IDLE
from isodesm.editor.text import Lines, edits_between
from tests.support import DEMO, TreeTest, share
from tests.test_edited import mutated

try:
    from lsprotocol import types
    from pygls.lsp.client import LanguageClient
except ImportError:  # an extra brings them
    types = None

EDITS = share("fuzz", 20, 100)
PATIENCE = 60


class TextTest(unittest.TestCase):
    def test_positions_count_in_utf_16(self) -> None:
        lines = Lines("a\tü𝄞b\r\nsecond\n\nlast 🐐 x".encode())
        for offset_of, line, character in (("b", 0, 5), ("second", 1, 0), ("last", 3, 0), ("x", 3, 8)):
            offset = lines.text.index(offset_of.encode())
            with self.subTest(at=offset_of):
                self.assertEqual(lines.at(offset), {"line": line, "character": character})
                self.assertEqual(lines.offset({"line": line, "character": character}), offset)
        self.assertEqual(lines.offset({"line": 9, "character": 0}), len(lines.text))
        self.assertEqual(lines.offset({"line": 1, "character": 99}), lines.text.index(b"second") + 6)
        self.assertEqual(lines.span(1, 5, 6)["start"], {"line": 0, "character": 5})

    def test_edits_give_the_other_text(self) -> None:
        chance = random.Random(1)
        for _ in range(200):
            before, after = ("".join(chance.choice(["a", "ü🐐", "\n", "\r\n", "b\n"]) for _ in range(12)) for _ in range(2))
            self.assertEqual(applied(before, edits_between(before.encode(), after.encode())), after)


def applied(text: str, edits: list[dict[str, Any]]) -> str:
    """A text after edits, as a client makes them."""
    data = text.encode()
    lines = Lines(data)
    for each in sorted(edits, key=lambda one: lines.offset(one["range"]["start"]), reverse=True):
        start, end = lines.offset(each["range"]["start"]), lines.offset(each["range"]["end"])
        data = data[:start] + each["newText"].encode() + data[end:]
    return data.decode()


@unittest.skipIf(types is None, "the extra of editors is not installed")
class PortTest(TreeTest):
    """What may speak to the port, and what is made of it."""

    def setUp(self) -> None:
        super().setUp()
        self.write({"own/a.py": "class A: pass\n", "other/b.py": "class B: pass\n"})
        command = [sys.executable, "-m", "isodesm", "editor", "--port", "0", "own"]
        environment = {**os.environ, "ISODESM_CACHE_DIR": str(self.root.parent / "cache")}
        self.run = subprocess.Popen(command, cwd=self.root, env=environment, stderr=subprocess.PIPE, text=True)  # type: ignore
        self.addCleanup(self.run.communicate)
        self.addCleanup(self.run.kill)
        self.token = self.run.stderr.readline().split()[-1]
        self.port = int(self.run.stderr.readline().rpartition(":")[2])

    def message(self, **given: Any) -> bytes:
        body = json.dumps({"jsonrpc": "2.0", **given}).encode()
        return b"Content-Length: %d\r\n\r\n%s" % (len(body), body)

    def beginning(self, token: str) -> bytes:
        options = {"processId": None, "rootUri": (self.root / "other").as_uri(), "capabilities": {}}
        return self.message(id=1, method="initialize", params={**options, "initializationOptions": {"token": token}})

    def said(self, content: bytes, *until: bytes) -> bytes:
        """What is answered, until it holds some words, or the other end is closed."""
        with socket.create_connection(("127.0.0.1", self.port), timeout=60) as line:
            line.sendall(content)
            answer = b""
            while not until or not all(each in answer for each in until):
                part = line.recv(65536)
                if not part:
                    break
                answer += part
            return answer

    def test_only_who_has_the_token_is_answered(self) -> None:
        right = self.beginning(self.token)
        page = b"POST / HTTP/1.1\r\nHost: evil.example\r\nOrigin: http://evil.example\r\n"
        silent = (page + right.replace(b"\r\n\r\n", b"\r\n\r\n", 1), b"Content-Length: 99999999999\r\n\r\n", b"x" * 100_000)
        for content in (*silent, b"Content-Length: 5\r\n\r\n[1,2]", b"Content-Length: -1\r\n\r\n", b"\r\n"):
            with self.subTest(content[:30]):
                self.assertEqual(self.said(content), b"")
        self.assertIn(b"wants the token", self.said(self.beginning("another")))
        self.assertIn(b"wants the token", self.said(self.message(id=1, method="shutdown")))
        odd = [b"Content-Length: 3\r\n\r\n{x}", b"Content-Length: 3\r\n\r\n[1]", self.message(id=3, method=5)]
        deep = b"[" * 100_000
        odd.append(b"Content-Length: %d\r\n\r\n%s" % (len(deep), deep))
        begun = self.message(method="initialized", params={})
        answer = self.said(right + b"".join(odd) + begun, b"none of the folders", b"-32700", b"is no message", b"is a name")
        self.assertIn(b"serverInfo", answer)
        self.run.wait(60)
        said = self.run.stderr.read()
        self.assertNotIn("Traceback", said)


class Editor:
    """An editor with one folder open: what it shows, and what it has been told."""

    def __init__(self, folder: Path, cache: Path, patience: float = PATIENCE) -> None:
        self.folder, self.cache, self.patience = folder, cache, patience
        self.client = LanguageClient("an editor", "1")
        self.told: dict[str, list[Any]] = {}
        self.said: list[str] = []
        self.settled, self.heard = asyncio.Event(), asyncio.Event()
        """Set once all that is shown now has been judged, and once something has been told."""
        self._versions: dict[str, int] = {}
        self.heard_of: list[tuple[str, float]] = []
        """Addresses whose diagnostics were told, and `settled`, with the second of each."""

    async def start(self) -> None:
        client = self.client

        @client.feature(types.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)
        def told(params: Any) -> None:
            self.told[params.uri] = list(params.diagnostics)
            self.heard_of.append((params.uri, time.monotonic()))
            self.heard.set()

        @client.feature(types.WINDOW_SHOW_MESSAGE)
        def said(params: Any) -> None:
            self.said.append(params.message)

        @client.feature("isodesm/settled")
        def settled(params: Any) -> None:  # it may be about what was shown a moment ago
            self.heard_of.append(("settled", time.monotonic()))
            about = {each.uri: each.version for each in params.documents}
            if about == {self.uri(path): version for path, version in self._versions.items()}:
                self.settled.set()

        environment = {**os.environ, "ISODESM_CACHE_DIR": str(self.cache)}
        await client.start_io(sys.executable, "-m", "isodesm", "editor", env=environment)
        await client.initialize_async(
            types.InitializeParams(
                capabilities=types.ClientCapabilities(
                    general=types.GeneralClientCapabilities(position_encodings=["utf-8", "utf-16"]),
                    experimental={"isodesmSettled": True},
                ),
                workspace_folders=[types.WorkspaceFolder(self.folder.as_uri(), "folder")],
            )
        )
        client.initialized(types.InitializedParams())

    async def settle(self) -> None:
        await asyncio.wait_for(self.settled.wait(), self.patience)
        self.settled.clear()

    def uri(self, path: str) -> str:
        return (self.folder / path).as_uri()

    def open(self, path: str, text: str) -> None:
        self._versions[path] = 1
        self.settled.clear()
        self.client.text_document_did_open(
            types.DidOpenTextDocumentParams(types.TextDocumentItem(self.uri(path), "text", 1, text))
        )

    def type(self, path: str, text: str) -> None:
        self._versions[path] += 1
        self.settled.clear()
        document = types.VersionedTextDocumentIdentifier(self._versions[path], self.uri(path))
        self.client.text_document_did_change(
            types.DidChangeTextDocumentParams(document, [types.TextDocumentContentChangeWholeDocument(text)])
        )

    def touched(self, **how: str) -> None:
        """Tell of files on the disk, all at once: `Created`, `Changed` or `Deleted` and the path."""
        events = [types.FileEvent(self.uri(path), types.FileChangeType[name]) for name, path in how.items()]
        self.settled.clear()
        self.client.workspace_did_change_watched_files(types.DidChangeWatchedFilesParams(events))

    def document(self, path: str) -> Any:
        return types.TextDocumentIdentifier(self.uri(path))

    async def stop(self) -> None:
        await self.client.shutdown_async(None)
        self.client.exit(None)
        await self.client.stop()


@unittest.skipIf(types is None, "the packages of the extra `editor` are not installed")
class EditorTest(TreeTest):
    def edit(self, sample: str, work: Callable[[Editor], Awaitable[None]]) -> None:
        """Work in an editor on a copy of a sample, from when all is read."""
        tree = self.root / sample
        if not tree.exists():
            shutil.copytree(DEMO / sample, tree, ignore=shutil.ignore_patterns("__pycache__"))

        async def run() -> None:
            editor = Editor(tree, self.root / "cache")
            await editor.start()
            try:
                await editor.settle()
                await work(editor)
            finally:
                await editor.stop()

        asyncio.run(run())

    def found_by_scan(self, tree: Path) -> list[tuple[str, str, int, str]]:
        command = [sys.executable, "-m", "isodesm", "scan", str(tree), "--format", "json", "--no-cache"]
        result = json.loads(subprocess.run(command, capture_output=True, check=True).stdout)["result"]
        return sorted((each["file"], each["kind"], each["line"], each["message"]) for each in result["findings"])

    def found_by_editor(self, editor: Editor) -> list[tuple[str, str, int, str]]:
        return sorted(
            (Path(uri.removeprefix(editor.folder.as_uri() + "/")).as_posix(), each.code, each.range.start.line + 1,
             each.message.split("\n")[0])
            for uri, own in editor.told.items()
            for each in own
        )  # fmt: skip

    def test_diagnostics_are_those_of_a_scan(self) -> None:
        """After each of many edits: typed, saved, new, renamed and deleted files."""
        chance = random.Random(7)

        async def work(editor: Editor) -> None:
            import isodesm
            from isodesm.codebase.reading import read
            from isodesm.settings import FILE_NAME, load_settings

            shown: dict[str, str] = {}
            paths = sorted(path.relative_to(editor.folder).as_posix() for path in editor.folder.rglob("*.java"))
            for number in range(EDITS):
                path = chance.choice(paths)
                text = shown.get(path) or (editor.folder / path).read_text()
                new = mutated(text, chance, (editor.folder / chance.choice(paths)).read_text().split("\n"))
                if chance.random() < 0.05 and path not in shown:
                    other = path.replace(".java", f"{number}.java")
                    (editor.folder / path).rename(editor.folder / other)
                    editor.touched(Deleted=path, Created=other)
                    paths = [other if each == path else each for each in paths]
                else:
                    if path not in shown:
                        editor.open(path, text)
                    shown[path] = new
                    editor.type(path, new)
                await editor.settle()
                mirror = self.root / "mirror"
                shutil.rmtree(mirror, ignore_errors=True)
                shutil.copytree(editor.folder, mirror)
                for each, content in shown.items():
                    (mirror / each).write_bytes(content.encode())
                settings = load_settings(mirror / FILE_NAME, {"workers": 1})
                said = isodesm.diagnose(read(mirror, settings)).findings
                wanted = sorted((each.file, each.kind, each.line, each.message) for each in said)
                self.assertEqual(self.found_by_editor(editor), wanted, f"edit {number} of {path}")
            self.assertEqual(editor.said, [])
            for path, content in shown.items():
                (editor.folder / path).write_bytes(content.encode())
            self.assertEqual(self.found_by_scan(editor.folder), wanted)

        self.edit("bulletin-desk", work)

    def test_a_first_look_is_right(self) -> None:
        """Before the whole diagnosis: what is said at once of a typed change is what will be said."""
        path = "src/main/java/org/hollin/desk/app/BulletinService.java"

        async def work(editor: Editor) -> None:
            text = (editor.folder / path).read_text()
            uri = editor.uri(path)
            editor.open(path, text)
            await editor.settle()
            before = len(editor.told[uri])
            waited = []
            for number in range(3):  # a busy machine may deliver both at once
                editor.heard_of.clear()
                goats = "    // 🐐\n" * (number + 1)
                editor.type(path, text.replace("class BulletinService {\n", f"class BulletinService {{\n{goats}", 1))
                await editor.settle()
                (first, at), (last, then) = editor.heard_of  # what was told at once needs no second word
                self.assertEqual((first, last), (uri, "settled"))
                self.assertEqual(len(editor.told[uri]), before)
                waited.append(then - at)
            self.assertGreater(max(waited), IDLE / 2)

        self.edit("bulletin-desk", work)

    def test_actions_are_the_steps(self) -> None:
        """What the client makes of an action's edits are the bytes that `step` writes; an acceptance silences its finding."""
        path = "src/main/java/org/hollin/desk/app/BulletinService.java"

        async def work(editor: Editor) -> None:
            text = (editor.folder / path).read_text()
            editor.open(path, text)
            finding = next(each for each in editor.told[editor.uri(path)] if "FileGaugeFeed" in each.message)
            context = types.CodeActionContext([finding])
            given = types.CodeActionParams(editor.document(path), finding.range, context)
            actions = await editor.client.text_document_code_action_async(given)
            step = next(each for each in actions if each.title.startswith("Hand BulletinService its GaugeFeed"))
            made = (await editor.client.code_action_resolve_async(step)).edit
            self.assertTrue(all(each.needs_confirmation for each in made.change_annotations.values()))
            mine = self.root / "mine"
            shutil.copytree(editor.folder, mine)
            for change in made.document_changes:
                uri = change.uri if isinstance(change, types.CreateFile) else change.text_document.uri
                target = mine / uri.removeprefix(editor.folder.as_uri() + "/")
                if isinstance(change, types.CreateFile):
                    target.touch()
                else:
                    edits = [{"range": as_plain(each.range), "newText": each.new_text} for each in change.edits]
                    target.write_text(applied(target.read_text(), edits))
            theirs = self.root / "theirs"
            shutil.copytree(editor.folder, theirs)
            command = [sys.executable, "-m", "isodesm", "step", str(theirs), "--write"]
            ids = step.data["ids"]
            subprocess.run([*command, *(word for each in ids for word in ("--id", each))], capture_output=True, check=True)
            self.assertEqual(tree_of(mine), tree_of(theirs))
            accept = next(each for each in actions if each.kind == types.CodeActionKind.QuickFix)
            edit = accept.edit.document_changes[0].edits[0]
            silenced = applied(text, [{"range": as_plain(edit.range), "newText": edit.new_text.replace("say why", "it stays")}])
            editor.type(path, silenced)
            await editor.settle()
            self.assertFalse([e for e in editor.told[editor.uri(path)] if e.message == finding.message])

        self.edit("bulletin-desk", work)

    def test_questions(self) -> None:
        """Hover, lenses, names by strain, and calls through an interface."""
        path = "src/main/java/org/hollin/desk/app/BulletinService.java"

        async def work(editor: Editor) -> None:
            text, client = (editor.folder / path).read_text(), editor.client
            editor.open(path, text)
            lines = Lines(text.encode())

            def at(word: str, skip: int = 0) -> Any:
                return types.Position(**lines.at(text.encode().index(word.encode()) + skip))

            hover = await client.text_document_hover_async(
                types.HoverParams(editor.document(path), at("class BulletinService", 8))
            )
            self.assertIn("**BulletinService**: service", hover.contents.value)
            self.assertIn("Locked in: file", hover.contents.value)
            self.assertIn("Strain ", hover.contents.value)
            lenses = await client.text_document_code_lens_async(types.CodeLensParams(editor.document(path)))
            self.assertRegex(lenses[0].command.title, r"^made in \d+ places?, used by \d+ class(es)?, \d+ tests?$")
            names = await client.workspace_symbol_async(types.WorkspaceSymbolParams("service"))
            strains = [float(each.container_name.split()[1].rstrip(",")) for each in names]
            self.assertEqual(strains, sorted(strains, reverse=True))
            self.assertEqual(names[0].name, "BulletinService")
            prepared = types.CallHierarchyPrepareParams(editor.document(path), at(" publish(", 2))
            item = (await client.text_document_prepare_call_hierarchy_async(prepared))[0]
            self.assertEqual(item.name, "BulletinService.publish")
            called = await client.call_hierarchy_outgoing_calls_async(types.CallHierarchyOutgoingCallsParams(item))
            callers = await client.call_hierarchy_incoming_calls_async(types.CallHierarchyIncomingCallsParams(item))
            self.assertTrue(called)
            self.assertTrue(callers)
            self.assertTrue(all(each.from_ranges for each in (*called, *callers)))

        self.edit("bulletin-desk", work)

    def test_odd_buffers(self) -> None:
        """Broken and huge buffers, an address that is none, a request that is taken back: it goes on answering."""
        path = "src/main/java/org/hollin/desk/app/BulletinService.java"

        async def work(editor: Editor) -> None:
            text, client = (editor.folder / path).read_text(), editor.client
            editor.open(path, text)
            for odd in ("class {{{ ((", "", "\x00\ufffd" * 50, text + "/* x */" * 750_000, text):
                editor.type(path, odd)
                await editor.settle()
            asked = asyncio.ensure_future(client.workspace_symbol_async(types.WorkspaceSymbolParams("")))
            await asyncio.sleep(0)
            asked.cancel()
            nowhere = types.TextDocumentIdentifier("untitled:Untitled-1")
            self.assertIsNone(await client.text_document_hover_async(types.HoverParams(nowhere, types.Position(0, 0))))
            far = types.HoverParams(editor.document(path), types.Position(99_999, 99_999))
            self.assertIsNone(await client.text_document_hover_async(far))
            self.assertTrue(await client.workspace_symbol_async(types.WorkspaceSymbolParams("Bulletin")))

        self.edit("bulletin-desk", work)

    def test_settings_are_read_again(self) -> None:
        async def work(editor: Editor) -> None:
            self.assertTrue(any(editor.told.values()))
            (editor.folder / "isodesm.toml").write_text('exclude = ["src/main/**"]\n')
            editor.touched(Created="isodesm.toml")
            await asyncio.sleep(0.1)
            while any("src/main" in uri and own for uri, own in editor.told.items()):
                await editor.settle()
            (editor.folder / "isodesm.toml").write_text("nonsense = 1\n")
            editor.touched(Changed="isodesm.toml")
            while not editor.said:
                await asyncio.sleep(0.05)
            self.assertIn("nonsense", editor.said[0])

        self.edit("bulletin-desk", work)

    @unittest.skipUnless(Path("/proc").is_dir(), "processes can't be looked at here")
    def test_nothing_is_left_behind(self) -> None:
        """Neither after an orderly end, nor when the client is killed."""
        self.edit("slope-map", lambda editor: asyncio.sleep(0))
        self.assertEqual(children_with(str(self.root / "cache")), [])
        tree = self.root / "slope-map"
        code = (
            "import asyncio, sys; sys.path.insert(0, sys.argv[3])\n"
            "from pathlib import Path; from tests.test_editor import Editor\n"
            "async def run():\n"
            "    editor = Editor(Path(sys.argv[1]), Path(sys.argv[2])); await editor.start(); await editor.settle()\n"
            "    print('ready', flush=True); await asyncio.sleep(60)\n"
            "asyncio.run(run())\n"
        )
        home = str(Path(__file__).parent.parent)
        client = subprocess.Popen(
            [sys.executable, "-c", code, str(tree), str(self.root / "cache"), home], stdout=subprocess.PIPE, text=True
        )
        assert client.stdout is not None
        self.assertEqual(client.stdout.readline(), "ready\n")
        self.assertTrue(children_with(str(self.root / "cache")))
        client.send_signal(signal.SIGKILL)
        client.wait()
        client.stdout.close()
        deadline = time.monotonic() + 10
        while children_with(str(self.root / "cache")) and time.monotonic() < deadline:
            time.sleep(0.1)
        self.assertEqual(children_with(str(self.root / "cache")), [])


def as_plain(given: Any) -> dict[str, Any]:
    return {side: {"line": one.line, "character": one.character} for side, one in (("start", given.start), ("end", given.end))}


def tree_of(folder: Path) -> dict[str, bytes]:
    return {path.relative_to(folder).as_posix(): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


def children_with(cache: str) -> list[int]:
    """Processes that work with a cache of their own: by their environment."""
    found = []
    for each in Path("/proc").iterdir():
        try:
            if each.name.isdigit() and f"ISODESM_CACHE_DIR={cache}".encode() in (each / "environ").read_bytes():
                found.append(int(each.name))
        except OSError:
            continue
    return found


if __name__ == "__main__":
    unittest.main()
