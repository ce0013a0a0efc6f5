"""What can be asked of open links; see calls.py."""

from __future__ import annotations

from harquel.contract import OpenLink, OpenLinkMade, OpenLinks

from .calls import Call, part


def share_answer(inquiry: str, days: int = 7, note: str = "") -> Call[OpenLinkMade]:
    """Makes a link by which people without an account see an answer."""
    body = {"days": days, "note": note}
    return Call("POST", f"inquiries/{part(inquiry)}/open-links", OpenLinkMade.model_validate, body)


def share_casebook(key: str, days: int = 7, note: str = "") -> Call[OpenLinkMade]:
    """Makes one for a casebook."""
    body = {"days": days, "note": note}
    return Call("POST", f"casebooks/{part(key)}/open-links", OpenLinkMade.model_validate, body)


def open_links() -> Call[list[OpenLink]]:
    """Those of one's own, the newest first."""
    return Call("GET", "open-links", lambda found: OpenLinks.model_validate(found).root)


def end_open_link(key: str) -> Call[None]:
    """Ends one."""
    return Call("DELETE", f"open-links/{part(key)}", lambda _: None)
