"""German."""

from __future__ import annotations

from typing import Final

from harquel.core.language.pack import Pack, words

GERMAN: Final = Pack(
    code="de",
    commonest=words("der die das und ist sind war waren welche wie viele viel im in je pro für aus am den dem"),
    light=words(
        "der die das den dem des ein eine einen einem einer eines dieser diese dieses diesen diesem in im an am auf "
        "zu zum zur bei beim von vom für mit aus es er sie wir uns unser unsere ihr ihre ihren ich mir mich du ist "
        "sind war waren sein gewesen wird werden wurde wurden worden hat haben hatte hatten habe kann können konnte "
        "soll sollte welche welcher welches welchen welchem wer wen wem wessen was wann wo wie und oder ob so bitte "
        "zeige zeig nenne gib sag meaning"
    ),
    articles=words("der die das"),
    asking=words("wie viele viel anzahl zahl pro je jede jeden jedes jedem"),
    capital_nouns=True,
    denials=words("nicht nie niemals kein keine keinen keinem keiner keines niemand nichts weder noch ohne außer"),
)
