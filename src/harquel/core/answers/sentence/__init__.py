"""The sentence over a result whose question has been read: who leads, what came of it, how it went, in which time."""

from harquel.core.answers.sentence.remark import remark
from harquel.core.answers.sentence.shapes import Told, sentence

__all__ = ["Told", "remark", "sentence"]
