"""Makes an open link of a casebook."""

from __future__ import annotations

from harquel.contract import OpenLinkMade, OpenLinkRequest
from harquel.core.casebooks import as_page
from harquel.service.casebooks.contents import Contents
from harquel.service.casebooks.finding import OWN, newest
from harquel.service.casebooks.models import StoredCasebook
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, operation

from ..making import Shown, make


@operation(
    "casebook.share", takes=OpenLinkRequest, about=OWN, scope="ask", gives=OpenLinkMade, repeat="anew",
    entries=("open-link-made", "open-link-opened", "open-link-ended"),
    rule="where the policy of each of its sources has such links, for the roles that they name",
)  # fmt: skip
def share_casebook(call: Call[OpenLinkRequest, StoredCasebook]) -> OpenLinkMade:
    """Makes a link by which people without an account see a casebook of one's own as it is now, for some days: its text
    and its answers, without what they stand on.
    """
    casebook = call.about
    contents = Contents(casebook, newest(casebook), call.caller, leaves=True)
    inquiries = [held.stored for held in contents.held if held.stored is not None]
    if not inquiries:
        raise ProblemError(409, "casebook-empty", "problem-casebook-empty")
    title, language = contents.version.title, casebook.language

    def page(line: str) -> bytes:
        return as_page(title, line, language, contents.parts(), [])

    return make(Shown(inquiries, title, language, page, casebook=casebook.key), call.asked, call.caller)
