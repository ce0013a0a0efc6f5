"""The protocols in which language models are spoken to: how a call is written, and what of a reply is heard.

By their public descriptions; a file each. What they share is in wire.py; bytes and connections are not their matter.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from harquel.core.llm.model import ProtocolName

from .chat_completions import ChatCompletions
from .generate_content import GenerateContent
from .messages import Messages
from .wire import Heard, Hearing, Sent, Wire

WIRES: Final[Mapping[ProtocolName, Wire]] = {
    "chat-completions": ChatCompletions(), "messages": Messages(), "generate-content": GenerateContent(),
}  # fmt: skip

__all__ = ["WIRES", "Heard", "Hearing", "Sent", "Wire"]
