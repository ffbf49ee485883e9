"""`python -m publishing`: writes `docs/isodesm.1`, `docs/left.md` and the reference in `docs/formats.md` anew."""

from __future__ import annotations

from pathlib import Path

from publishing.fields import with_reference
from publishing.left import left_page
from publishing.manual import man_page

DOCS = Path(__file__).parent.parent / "docs"


def main() -> None:
    """Write them."""
    (DOCS / "isodesm.1").write_text(man_page(), encoding="utf-8")
    (DOCS / "left.md").write_text(left_page(), encoding="utf-8")
    formats = DOCS / "formats.md"
    formats.write_text(with_reference(formats.read_text(encoding="utf-8")), encoding="utf-8")


if __name__ == "__main__":
    main()
