"""What a forecast is made of."""

from forecast.model.layer import SnowLayer
from forecast.model.profile import SnowProfile
from forecast.model.verdict import Stability, Verdict

__all__ = ["SnowLayer", "SnowProfile", "Stability", "Verdict"]
