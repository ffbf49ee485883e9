"""The page of reasons is made from the sentences that plans say, and has every one of them once."""

from __future__ import annotations

import unittest
from collections import Counter
from pathlib import Path

from isodesm.planning.model.refusal import Reason
from isodesm.planning.wording.reasons import SENTENCES
from publishing.left import left_page, reasons_shown

PAGE = Path(__file__).parent.parent / "docs/left.md"
NAMED_BY_ITS_CAUSES = frozenset((Reason.NEEDS_FACTORY,))


class LeftPageTest(unittest.TestCase):
    maxDiff = None

    def test_it_is_as_it_is_made(self) -> None:
        self.assertEqual(PAGE.read_text(encoding="utf-8"), left_page(), "`python -m publishing` writes it anew")

    def test_it_has_every_reason_once(self) -> None:
        self.assertEqual(Counter(reasons_shown()), Counter(set(Reason) - NAMED_BY_ITS_CAUSES))
        self.assertEqual(set(SENTENCES), set(Reason))
