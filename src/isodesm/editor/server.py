"""The open protocol of editors (LSP 3.17) in front of the engine. Nothing is written here: edits are the editor's to make."""

from __future__ import annotations

import asyncio
import contextlib
from pathlib import Path
from typing import Any

from lsprotocol import types
from lsprotocol.converters import get_converter
from pygls.lsp.server import LanguageServer
from pygls.protocol import LanguageServerProtocol, lsp_method
from pygls.uris import to_fs_path

import isodesm
from isodesm.editor.engine_client import EngineFailed, Line
from isodesm.editor.shown import Change

TYPED = 0.12
"""Seconds without a further change of a buffer, after which the engine is told of it."""
WATCHED = "**/*"
_convert = get_converter()


class Protocol(LanguageServerProtocol):
    """Counts columns in UTF-16, which every editor can, whatever else it offers."""

    @lsp_method(types.INITIALIZE)
    def lsp_initialize(self, params: types.InitializeParams) -> Any:
        if params.capabilities.general is not None:
            params.capabilities.general.position_encodings = None
        return (yield from super().lsp_initialize(params))


class Server(LanguageServer):
    """Mutable in the line to its engine, and in what buffers wait for their writer to pause."""

    def __init__(self) -> None:
        super().__init__(
            "isodesm",
            isodesm.__version__,
            protocol_cls=Protocol,
            text_document_sync_kind=types.TextDocumentSyncKind.Incremental,
        )
        self.folders: list[Path] = []
        self.within: tuple[Path, ...] = ()
        """Folders that may be read, with those below them; any where none is named."""
        self._line: Line | None = None
        self._typed: dict[str, asyncio.TimerHandle] = {}
        self._progress: dict[Path, str] = {}

    @property
    def line(self) -> Line:
        """The line to the engine, which is started when it is first needed."""
        if self._line is None:
            self._line = Line(asyncio.get_running_loop(), self.hear)
        return self._line

    def close(self) -> None:
        """Let the engine go."""
        if self._line is not None:
            self._line.close()

    # --- folders and buffers ----------------------------------------------------------------

    def open(self, folder: Path) -> None:
        """Read a folder, if it is one of those that may be read."""
        real = folder.resolve()
        if self.within and not any(real.is_relative_to(each) for each in self.within):
            said = f"isodesm: {folder} is none of the folders that this server was started for"
            self.window_show_message(types.ShowMessageParams(types.MessageType.Warning, said))
        elif folder not in self.folders:
            self.folders.append(folder)
            self.line.tell("open", folder)

    def leave(self, folder: Path) -> None:
        """Forget a folder."""
        if folder in self.folders:
            self.folders.remove(folder)
            self.line.tell("close", folder)

    def show(self, uri: str, *, at_once: bool = False) -> None:
        """Tell the engine what a buffer holds, once nobody has typed for a moment, or now."""
        waiting = self._typed.pop(uri, None)
        if waiting is not None:
            waiting.cancel()
        if at_once:
            self._send(uri)
        else:
            self._typed[uri] = asyncio.get_running_loop().call_later(TYPED, lambda: self._send(uri))

    def _send(self, uri: str) -> None:
        self._typed.pop(uri, None)
        file = path_of(uri)
        if file is not None and uri in self.workspace.text_documents:
            document = self.workspace.text_documents[uri]
            self.line.tell("change", [Change(file, uri, document.version, document.source.encode("utf-8", "replace"))])

    def of_disk(self, uris: list[str]) -> None:
        """Tell the engine, of all at once, that files hold what the disk holds."""
        for uri in uris:
            if (waiting := self._typed.pop(uri, None)) is not None:
                waiting.cancel()
        self.line.tell("change", [Change(file, uri) for uri in uris if (file := path_of(uri)) is not None])

    def settle(self) -> None:
        """Tell the engine of all that was typed: what is asked next is about that."""
        for uri in list(self._typed):
            self.show(uri, at_once=True)

    async def ask(self, name: str, uri: str, given: dict[str, Any]) -> Any:
        """The engine's answer about a file ('' for all folders); None where it has none."""
        self.settle()
        file = path_of(uri) if uri else None
        if uri and file is None:
            return None
        try:
            return await self.line.ask(name, file, given)
        except EngineFailed as error:
            self.window_log_message(types.LogMessageParams(types.MessageType.Warning, f"isodesm: {error}"))
            return None

    # --- what the engine says ---------------------------------------------------------------

    def hear(self, what: str, *said: Any) -> None:
        """Hand on what the engine says by itself."""
        if what == "diagnostics":
            uri, found = said
            given = {"uri": uri, "diagnostics": found}
            self.text_document_publish_diagnostics(_convert.structure(given, types.PublishDiagnosticsParams))
        elif what == "trouble":
            self.window_show_message(types.ShowMessageParams(types.MessageType.Warning, f"isodesm: {said[0]}"))
        elif what == "progress":
            self._report(*said)
        elif what == "settled":
            wanted = self.client_capabilities.experimental
            if isinstance(wanted, dict) and wanted.get("isodesmSettled"):
                folder, versions = said
                documents = [{"uri": uri, "version": version} for uri, version in versions.items()]
                self.protocol.notify("isodesm/settled", {"uri": folder.as_uri(), "documents": documents})
        elif what == "restarted":
            for folder in self.folders:
                self.line.tell("open", folder)
            for uri in self.workspace.text_documents:
                self.show(uri, at_once=True)

    def _report(self, folder: Path, what: str, done: int, total: int) -> None:
        window = self.client_capabilities.window
        if window is None or not window.work_done_progress:
            return
        token = self._progress.get(folder)
        if token is None:
            if what != "done":
                token = self._progress[folder] = f"isodesm {folder} {len(self._progress)}"
                asyncio.ensure_future(self._begin(token, folder))
            return
        if token not in self.work_done_progress.tokens:
            return
        if what == "done":
            self.work_done_progress.end(token, types.WorkDoneProgressEnd())
            self._progress.pop(folder, None)
        else:
            percentage = min(100 * done // total, 100) if total else None
            self.work_done_progress.report(token, types.WorkDoneProgressReport(message=what, percentage=percentage))

    async def _begin(self, token: str, folder: Path) -> None:
        with contextlib.suppress(Exception):  # an editor that can't show it is no trouble
            await self.work_done_progress.create_async(token)
            self.work_done_progress.begin(
                token, types.WorkDoneProgressBegin(title=f"isodesm reads {folder.name}", percentage=0)
            )


def path_of(uri: str) -> Path | None:
    """The file that an address names; None where it names none on this machine."""
    if not uri.startswith("file:"):
        return None
    found = to_fs_path(uri)
    return Path(found) if found else None


def typed(given: Any, kind: Any) -> Any:
    """An answer of the engine in the types of the protocol."""
    return _convert.structure(given, kind) if given is not None else None


def plain(given: Any) -> dict[str, Any]:
    """What the protocol asks, as plain data."""
    return _convert.unstructure(given)
