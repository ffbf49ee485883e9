"""A plan as Markdown: a checklist to paste into an issue tracker."""

from __future__ import annotations

from itertools import groupby

from isodesm.facts.languages import LANGUAGES, dialect_of
from isodesm.output.cells import code_span, fence_for, prose
from isodesm.output.changes import balance_of, changed_lines
from isodesm.output.text import counted, number_of, printable
from isodesm.planning.model.stage import Goal
from isodesm.planning.model.step import Code, Plan, Step

FENCES = {suffix: word for language in LANGUAGES for suffix, word in dialect_of(language).fences.items()}
"""Suffix of a file to the word that tells renderers its language."""


def plan_text(plan: Plan) -> bytes:
    """The whole plan; steps that the code shows to be done are ticked."""
    lines = [
        "# Plan",
        "",
        f"Strain {number_of(plan.strain[0])} → {number_of(plan.strain[1])}, hard bonds {plan.hard_bonds[0]} → "
        f"{plan.hard_bonds[1]}.{_waiting(plan)}",
    ]
    lines += [line for goal in plan.goals for line in _goal(goal)]
    if plan.stages:
        lines += ["", "## Stages", ""]
        lines += [f"{each.number}. {prose(each.said)} (steps {each.first} to {each.last})" for each in plan.stages]
    if plan.choices:
        lines += ["", "## Decide first", "", *(f"- [ ] {prose(question)}" for question in plan.choices)]
    if plan.done:
        lines += [
            "",
            "## Done",
            "",
            *(f"- [x] {prose(each.title)} (`{each.id}`, {at(each.file, each.line)})" for each in plan.done),
        ]
    if plan.steps:
        lines += ["", "## Steps"]
    begins = {stage.first: stage for stage in plan.stages}
    for step in plan.steps:
        if (stage := begins.get(step.number)) is not None:
            lines += ["", f"### Stage {stage.number}: {prose(stage.said)}"]
        lines += _step(step)
    if plan.left:
        lines += ["", "## Not in this plan", ""]
        lines += [
            f"- {code_span(each.source)} ⇒ {code_span(each.target)} ({each.count}×, {at(each.file, each.line)}): "
            f"{prose(each.reason)}"
            for each in plan.left
        ]
    if plan.kept:
        lines += ["", "## Old constructors and defaults that stay", ""]
        lines += [f"- {code_span(each.name)} ({at(each.file, each.line)}): {prose(each.reason)}" for each in plan.kept]
    return ("\n".join(lines) + "\n").encode()


def _goal(goal: Goal) -> list[str]:
    lines = ["", f"{prose(goal.said)}."]
    if not goal.after and goal.made_by:
        lines += ["", f"A test creates it as {code_span(goal.made_by)}."]
    still = (f"- {each.what}: {prose(each.said)}" if each.kind == "effect" else f"- {prose(each.said)}" for each in goal.after)
    return [*lines, *([""] if goal.after else []), *still]


def _waiting(plan: Plan) -> str:
    return f" {said_of_waiting(plan)}." if plan.waiting.classes else ""


def said_of_waiting(plan: Plan) -> str:
    """How much of the gain waits for callers, as a sentence."""
    waiting = plan.waiting
    keep = f"{'keeps' if waiting.classes == 1 else 'keep'} an old constructor or a default"
    bonds = counted(waiting.hard_bonds, "hard bond")
    return (
        f"Of that, {number_of(waiting.strain)} strain and {bonds} are gone for tests only: "
        f"{counted(waiting.classes, 'class', 'classes')} {keep} until callers pass what is taken"
    )


def _step(step: Step) -> list[str]:
    before, after = step.before, step.after
    lines = ["", f"- [ ] **{step.number}. {prose(step.title)}** (`{step.id}`)", "", f"  {prose(step.why_now)}", ""]
    for file, group in groupby(step.edits, key=lambda edit: edit.file):
        lines += [
            f"  - {code_span(file)}",
            *(f"    - [ ] {edit.line}: {'by hand: ' if edit.by_hand else ''}{prose(edit.action)}" for edit in group),
        ]
    for file, shown in groupby(step.code, key=lambda code: code.file):
        lines += ["", f"  {code_span(file)}", *(line for code in shown for line in _code(code))]
    lines.append("")
    lines += [f"  - Lives: {step.lifetime}"] if step.lifetime else []
    lines += [f"  - Mind: {prose(hazard)}" for hazard in step.hazards]
    lines += [f"  - Gain: {prose(gain)}" for gain in step.frees]
    lines += [f"  - Bonds: {prose(balance)}"] if (balance := balance_of(step)) else []
    measures = (
        f"strain {number_of(before.strain)} → {number_of(after.strain)}, hard bonds {before.hard_bonds} → {after.hard_bonds}"
    )
    said = "After it, estimated" if step.estimated else "After it"
    return [*lines, "", f"  Check: {prose(step.check)} {said}: {measures}."]


def _code(code: Code) -> list[str]:
    """A new file in its own language; a change as a diff."""
    body = [f"{mark} {line}" for mark, line in changed_lines(code)] if code.before.strip() else code.after.rstrip().split("\n")
    word, fence = "diff" if code.before.strip() else FENCES.get(code.file.rpartition(".")[2], ""), fence_for(body)
    return ["", f"  {fence}{word}", *(f"  {printable(line)}".rstrip() for line in body), f"  {fence}"]


def at(file: str, line: int) -> str:
    """A line of a file, as code."""
    return code_span(f"{file}:{line}")
