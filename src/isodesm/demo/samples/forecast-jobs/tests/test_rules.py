import unittest

from forecast.model import SnowProfile, Stability
from forecast.model.rules import StabilityRules


class StabilityRulesTest(unittest.TestCase):
    def test_buried_weak_layer(self) -> None:
        profile = SnowProfile("Hart")
        profile.add(40, 3)
        profile.add(5, 1)
        self.assertEqual(StabilityRules().assess(profile), Stability.POOR)

    def test_hard_and_dry(self) -> None:
        profile = SnowProfile("Lyn")
        profile.add(60, 4)
        self.assertEqual(StabilityRules().assess(profile), Stability.GOOD)
