"""Language models: who they are and how to talk to them over the wire."""

from .chat_completions import ChatCompletions
from .model import Completion, LanguageModel, Message, ModelProfile

__all__ = ["ChatCompletions", "Completion", "LanguageModel", "Message", "ModelProfile"]
