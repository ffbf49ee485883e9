"""What containers are told: registrations read from calls, marks, lists of providers, entries, rules and definition files.

Facts only; whether they fit together is for the diagnosis to say.
"""

from isodesm.inference.registrations.find import Told, find_registrations
from isodesm.inference.registrations.registration import Registration

__all__ = ["Registration", "Told", "find_registrations"]
