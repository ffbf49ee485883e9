"""The settings file that `setup` writes: every setting with what was inferred, commented, for a person to correct."""

from __future__ import annotations

from collections import Counter

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import KINDS
from isodesm.inference.evidence import NAME
from isodesm.output.settings_layers import layers_block, listed
from isodesm.settings import Limits, Settings, StrainWeights

UNSURE_SHOWN = 12
"""Classes whose role rests on little that are named as examples."""


def settings_file(codebase: Codebase) -> bytes:
    """TOML that loads as it is, and changes nothing as long as nobody edits it but for naming the layers that were found."""
    parts = [
        _head(codebase),
        _reading(codebase),
        layers_block(codebase),
        _roles(codebase),
        _limits(),
        _acceptances(),
        _catalogue(),
    ]
    return ("\n\n".join(part.strip("\n") for part in parts) + "\n").encode()


def _head(codebase: Codebase) -> str:
    languages = Counter(facts.language for facts in codebase.symbols.files)
    read = ", ".join(f"{count} {language}" for language, count in sorted(languages.items()))
    return f"""# Settings of isodesm for this tree; found here and in every folder below.
# Files read when this was written: {read}. Lines that begin with # show what holds without them."""


def _reading(codebase: Codebase) -> str:
    usual = Settings()
    return f"""# What to read. Patterns are those of ignore files.
# languages = {listed(sorted({facts.language for facts in codebase.symbols.files}))}
# include = []
# exclude = ["generated/"]
# largest-file = {usual.largest_file}
# seconds-per-file = {usual.seconds_per_file}

# What must end with 0 after each step that is carried out, and the seconds that it may take (0: any time).
# [step]
# check = "make test"
# check-seconds = {usual.step.check_seconds:g}"""


def _roles(codebase: Codebase) -> str:
    lines = [
        "# Roles by pattern on the qualified name, where the inferred one is wrong: entity, value, exception, service, "
        "gateway,",
        "# repository, factory, presentation, composition-root, utility, test.",
        "[roles]",
    ]
    unsure = [
        number
        for number in range(len(codebase.symbols))
        if codebase.symbols.is_shown(number) and not codebase.symbols.is_module(number) and _is_unsure(codebase, number)
    ]
    if unsure:
        lines.append(f"# {len(unsure)} roles rest on a name alone, or on little more; among them:")
    for number in unsure[:UNSURE_SHOWN]:
        lines.append(
            f'# "{codebase.symbols.names[number]}" = "{codebase.roles.name(number)}"  # '
            f"{codebase.roles[number].evidence[0].reason}".replace("\\", "\\\\")
        )
    return "\n".join(lines)


def _is_unsure(codebase: Codebase, number: int) -> bool:
    role = codebase.roles[number]
    return bool(role.evidence) and role.evidence[0].strength <= NAME


def _limits() -> str:
    limits = "\n".join(f"# {name.replace('_', '-')} = {getattr(Limits(), name)}" for name in Limits.__struct_fields__)
    weights = "\n".join(
        f"# {name.replace('_', '-')} = {getattr(StrainWeights(), name)}" for name in StrainWeights.__struct_fields__
    )
    return f"""# Beyond these numbers a shape becomes a finding.
[limits]
{limits}

# Weights of the strain; see docs/measures.md.
[strain]
{weights}"""


def _acceptances() -> str:
    return f"""# Findings that were looked at and are to stay; the reason is required, and acceptances that nothing needs are
# reported.
# In the source, a remark on the line or above it does the same: isodesm: accept <kind> – <reason>
# Kinds: {", ".join(KINDS)}
#
# [[accept]]
# kind = "static-effect"
# class = "*Clock"
# target = "*"
# reason = "the one place that asks the system for the time\""""


def _catalogue() -> str:
    return """# Own APIs, in the form of the catalogue's files: what has an effect, what is a plain value, how containers are
# told.
#
# [catalogue.java.effects.network]
# "org.hollin.radio.RadioLink" = ["send", "new"]
#
# [catalogue.java.registrations.calls]
# supply = "singleton\""""
