"""Forms of messages, one file a kind of chat."""

from typing import Final

from .buttons import Buttons
from .message import ChatForm, Choice, Reply, Said
from .plain import Plain

__all__ = ["FORMS", "ChatForm", "Choice", "Reply", "Said"]
FORMS: Final[dict[str, ChatForm]] = {"plain": Plain(), "buttons": Buttons()}
