"""Questions that are asked again by themselves: when, and what of it is worth telling."""

from .judge import Judged, Rule, Seen, State, judge, rule_of
from .when import LEAST, NotWhen, Quiet, When, when_of

__all__ = ["LEAST", "Judged", "NotWhen", "Quiet", "Rule", "Seen", "State", "When", "judge", "rule_of", "when_of"]
