"""What the server offers: each feature asks the engine, and gives its answer back in the types of the protocol."""

from __future__ import annotations

import asyncio
from typing import Any

from lsprotocol import types

from isodesm.editor.server import WATCHED, Server, path_of, plain, typed


def make_server() -> Server:
    """A server with all its features."""
    server = Server()
    _follow(server)
    _answer(server)
    _act(server)
    return server


def _but_for_the_end(loop: asyncio.AbstractEventLoop, context: dict[str, Any]) -> None:
    """That the client asks the server to end is no mistake, though it ends by an exception."""
    if not isinstance(context.get("exception"), SystemExit):
        loop.default_exception_handler(context)


def _follow(server: Server) -> None:
    """Folders, buffers and files as they come and go."""

    @server.feature(types.INITIALIZED)
    async def started(ls: Server, params: types.InitializedParams) -> None:
        asyncio.get_running_loop().set_exception_handler(_but_for_the_end)
        for uri in ls.workspace.folders or ([ls.workspace.root_uri] if ls.workspace.root_uri else []):
            if (folder := path_of(uri)) is not None:
                ls.open(folder)
        workspace = ls.client_capabilities.workspace
        watched = workspace.did_change_watched_files if workspace is not None else None
        if watched is not None and watched.dynamic_registration:
            options = types.DidChangeWatchedFilesRegistrationOptions([types.FileSystemWatcher(WATCHED)])
            one = types.Registration("isodesm.files", types.WORKSPACE_DID_CHANGE_WATCHED_FILES, options)
            await ls.client_register_capability_async(types.RegistrationParams([one]))

    @server.feature(types.WORKSPACE_DID_CHANGE_WORKSPACE_FOLDERS)
    async def folders(ls: Server, params: types.DidChangeWorkspaceFoldersParams) -> None:
        for each in params.event.removed:
            if (folder := path_of(each.uri)) is not None:
                ls.leave(folder)
        for each in params.event.added:
            if (folder := path_of(each.uri)) is not None:
                ls.open(folder)

    @server.feature(types.TEXT_DOCUMENT_DID_OPEN)
    async def opened(ls: Server, params: types.DidOpenTextDocumentParams) -> None:
        ls.show(params.text_document.uri, at_once=True)

    @server.feature(types.TEXT_DOCUMENT_DID_CHANGE)
    async def changed(ls: Server, params: types.DidChangeTextDocumentParams) -> None:
        ls.show(params.text_document.uri)

    @server.feature(types.TEXT_DOCUMENT_DID_SAVE)
    async def saved(ls: Server, params: types.DidSaveTextDocumentParams) -> None:
        ls.show(params.text_document.uri, at_once=True)

    @server.feature(types.TEXT_DOCUMENT_DID_CLOSE)
    async def closed(ls: Server, params: types.DidCloseTextDocumentParams) -> None:
        ls.of_disk([params.text_document.uri])

    @server.feature(types.WORKSPACE_DID_CHANGE_WATCHED_FILES)
    async def touched(ls: Server, params: types.DidChangeWatchedFilesParams) -> None:
        ls.of_disk([each.uri for each in params.changes if each.uri not in ls.workspace.text_documents])

    @server.feature(types.SHUTDOWN)
    async def stopped(ls: Server, params: Any) -> None:
        ls.close()


def _answer(server: Server) -> None:
    """What is told of the code."""

    @server.feature(types.TEXT_DOCUMENT_HOVER)
    async def hover(ls: Server, params: types.HoverParams) -> types.Hover | None:
        return typed(await ls.ask("hover", params.text_document.uri, plain(params)), types.Hover)

    @server.feature(types.TEXT_DOCUMENT_CODE_LENS)
    async def lenses(ls: Server, params: types.CodeLensParams) -> list[types.CodeLens]:
        return typed(await ls.ask("lenses", params.text_document.uri, {}) or [], list[types.CodeLens])

    @server.feature(types.WORKSPACE_SYMBOL)
    async def symbols(ls: Server, params: types.WorkspaceSymbolParams) -> list[types.SymbolInformation]:
        return typed(await ls.ask("symbols", "", plain(params)) or [], list[types.SymbolInformation])

    @server.feature(types.TEXT_DOCUMENT_PREPARE_CALL_HIERARCHY)
    async def prepared(ls: Server, params: types.CallHierarchyPrepareParams) -> list[types.CallHierarchyItem] | None:
        answer = await ls.ask("prepare", params.text_document.uri, plain(params))
        return typed(answer, list[types.CallHierarchyItem])

    @server.feature(types.CALL_HIERARCHY_INCOMING_CALLS)
    async def incoming(ls: Server, params: types.CallHierarchyIncomingCallsParams) -> list[types.CallHierarchyIncomingCall]:
        answer = await ls.ask("incoming", params.item.uri, plain(params.item)["data"])
        return typed(answer or [], list[types.CallHierarchyIncomingCall])

    @server.feature(types.CALL_HIERARCHY_OUTGOING_CALLS)
    async def outgoing(ls: Server, params: types.CallHierarchyOutgoingCallsParams) -> list[types.CallHierarchyOutgoingCall]:
        answer = await ls.ask("outgoing", params.item.uri, plain(params.item)["data"])
        return typed(answer or [], list[types.CallHierarchyOutgoingCall])


def _act(server: Server) -> None:
    """What can be done about it."""
    kinds = [types.CodeActionKind.QuickFix, types.CodeActionKind.RefactorRewrite]

    @server.feature(types.TEXT_DOCUMENT_CODE_ACTION, types.CodeActionOptions(kinds, resolve_provider=True))
    async def actions(ls: Server, params: types.CodeActionParams) -> list[types.CodeAction]:
        given = {"range": plain(params.range), "only": plain(params.context).get("only")}
        return typed(await ls.ask("actions", params.text_document.uri, given) or [], list[types.CodeAction])

    @server.feature(types.CODE_ACTION_RESOLVE)
    async def resolved(ls: Server, action: types.CodeAction) -> types.CodeAction:
        data = plain(action).get("data")
        if action.edit is None and isinstance(data, dict):
            from pathlib import Path

            action.edit = typed(await ls.ask("edit", Path(data["file"]).as_uri(), data), types.WorkspaceEdit)
        return action
