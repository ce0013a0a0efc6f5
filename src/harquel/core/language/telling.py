"""The words by which figures are told in a language: what claims that one is more, the most, the second, a half."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from harquel.core.language.pack import words


def _valued(text: str) -> dict[str, float]:
    """`word value, word value`."""
    return {word: float(value) for word, value in (pair.split() for pair in text.split(","))}


@dataclass(frozen=True)
class Telling:
    """Words in small letters; `one…other` stands for two in a part of a sentence, whatever is between them."""

    more: frozenset[str]
    less: frozenset[str]
    more_behind: frozenset[str]
    """Those that claim so only behind a figure: "10 % over"."""
    less_behind: frozenset[str]
    than: frozenset[str]
    """What stands before that against which something is held."""
    rose: frozenset[str]
    fell: frozenset[str]
    idle: frozenset[str]
    """What looks like a claim and is none."""
    most: frozenset[str]
    least: frozenset[str]
    last: frozenset[str]
    """What claims the end of a list, where no unit of time stands behind it."""
    others: frozenset[str]
    """All but the one that is spoken of."""
    total: frozenset[str]
    average: frozenset[str]
    out_of: frozenset[str]
    """What stands before the number of all."""
    in_front: frozenset[str]
    in_back: frozenset[str]
    """What stands between two names, or before both: the one is in front of the other, or behind it."""
    even: frozenset[str]
    """What claims that two have the same."""
    rates: frozenset[str]
    """What makes a figure one of something else, unless that was asked for."""
    follows: frozenset[str]
    """What puts one thing behind another."""
    beyond: frozenset[str]
    """What claims a reason, a future, or what should be done: no result says that."""
    alone: frozenset[str]
    """What claims that nothing else is so, where no figure stands behind it."""
    one: frozenset[str]
    both: frozenset[str]
    """What joins two names."""
    percent: frozenset[str]
    counts: Mapping[str, float]
    ranks: Mapping[str, float]
    parts: Mapping[str, float]
    times: Mapping[str, float]
    units: frozenset[str]
    """Of time."""
    nouns: frozenset[str]
    """Of a language that writes nouns with a capital letter: those by which figures are told."""


_EN: Final = Telling(
    more=words("more higher above ahead exceeds exceeded larger greater stronger longer better"),
    less=words("less fewer lower below behind smaller weaker shorter trails worse"),
    more_behind=words("over up"),
    less_behind=words("under down short"),
    than=words("than of against over above below behind to"),
    rose=words("rose rise rises grew grow grows grown increased increase increases climbed jumped risen gained"),
    fell=words(
        "fell fall falls fallen dropped drop drops declined decline declines decreased decrease shrank sank lost"
    ),
    idle=words("at…least at…most or…more no…more fell…on falls…on fall…on"),
    most=words(
        "most highest largest biggest greatest leads lead led leader leading top best peak maximum strongest longest"
    ),
    least=words("least lowest smallest fewest weakest minimum shortest worst"),
    last=words("last bottom"),
    others=words("other others rest any"),
    total=words("together total altogether all sum overall combined between"),
    average=words("average mean"),
    out_of=words("of"),
    in_front=words("ahead before"),
    in_back=words("behind after"),
    even=words("tied tie equal equally level same even identical"),
    rates=words("per daily monthly weekly yearly annually hourly"),
    follows=words("followed then next"),
    beyond=words(
        "because due owing thanks caused causes cause reason reasons why will would shall should must ought may "
        "might likely probably presumably expected expect forecast therefore hence ignore disregard always never "
        "every"
    ),
    alone=words("only alone solely exclusively just"),
    one=words("a one"),
    both=words("and or with followed"),
    percent=words("percent per…cent"),
    counts=_valued(
        "two 2, three 3, four 4, five 5, six 6, seven 7, eight 8, nine 9, ten 10, eleven 11, twelve 12, dozen 12, "
        "both 2"
    ),
    ranks=_valued("first 1, second 2, third 3, fourth 4, fifth 5, sixth 6, seventh 7, eighth 8, ninth 9, tenth 10"),
    parts=_valued("half 0.5, third 0.3333, quarter 0.25, fifth 0.2, tenth 0.1, thirds 0.6667, quarters 0.75"),
    times=_valued("twice 2, double 2, doubled 2, triple 3, tripled 3, halved 0.5"),
    units=words("day days week weeks month months quarter quarters year years hour hours time"),
    nouns=frozenset(),
)
_DE: Final = Telling(
    more=words("mehr höher größer stärker länger besser übertrifft übertraf darüber"),
    less=words("weniger niedriger geringer kleiner schwächer kürzer schlechter darunter"),
    more_behind=words("über vor voraus vorn"),
    less_behind=words("unter hinter zurück"),
    than=words("als gegenüber vor hinter über unter"),
    rose=words("stieg stiegen steigt steigen gestiegen wuchs wuchsen gewachsen kletterte nahm…zu nahmen…zu zugenommen"),
    fell=words(
        "sank sanken sinkt sinken gesunken fiel fielen gefallen nahm…ab nahmen…ab abgenommen gingen…zurück ging…zurück"
    ),
    idle=words("fiel…aus fielen…aus fiel…auf fielen…auf unter…anderem vor…allem oder…mehr über…hinaus"),
    most=words(
        "meisten meiste höchste höchsten höchster größte größten größter führt führte führend vorn spitze "
        "spitzenreiter stärkste stärksten längste längsten beste besten maximum"
    ),
    least=words(
        "wenigsten wenigste niedrigste niedrigsten geringste geringsten kleinste kleinsten kleinster schwächste "
        "schwächsten kürzeste kürzesten minimum"
    ),
    last=words("letzte letzter letzten letztes schlusslicht"),
    others=words("andere anderen anderer anderem übrigen rest jedem jeder"),
    total=words("zusammen insgesamt gesamt summe alle allen gemeinsam"),
    average=words("durchschnitt durchschnittlich durchschnittlicher mittel mittelwert schnitt"),
    out_of=words("von"),
    in_front=words("vor"),
    in_back=words("hinter nach"),
    even=words("gleich gleichauf gleichviel ebenso genauso identisch"),
    rates=words("pro je täglich monatlich wöchentlich jährlich stündlich"),
    follows=words("gefolgt dann danach folgt folgen"),
    beyond=words(
        "weil wegen dank aufgrund grund gründe ursache daher deshalb deswegen denn wird werden würde sollte "
        "sollten soll muss müssen dürfte dürften könnte könnten wahrscheinlich vermutlich voraussichtlich "
        "erwartet prognose ignoriere vergiss immer nie stets"
    ),
    alone=words("nur allein ausschließlich lediglich bloß"),
    one=words("ein eine einem einen"),
    both=words("und oder mit sowie gefolgt"),
    percent=words("prozent"),
    counts=_valued(
        "zwei 2, drei 3, vier 4, fünf 5, sechs 6, sieben 7, acht 8, neun 9, zehn 10, elf 11, zwölf 12, dutzend "
        "12, beide 2, beiden 2"
    ),
    ranks=_valued(
        "erste 1, erster 1, ersten 1, "
        "zweite 2, zweiter 2, zweiten 2, dritte 3, dritter 3, dritten 3, vierte 4, vierter 4, vierten 4, fünfte "
        "5, fünften 5"
    ),
    parts=_valued("hälfte 0.5, halb 0.5, drittel 0.3333, viertel 0.25, fünftel 0.2, zehntel 0.1"),
    times=_valued("doppelt 2, doppelte 2, verdoppelt 2, verdoppelten 2, dreifache 3, halbiert 0.5, halbierten 0.5"),
    units=words(
        "tag tage tagen woche wochen monat monate monaten monats quartal quartale jahr jahre jahren jahres stunde "
        "stunden mal"
    ),
    nouns=words(
        "prozent durchschnitt summe anteil anteile anzahl zahl wert werte stelle platz rang spitze ende vorsprung "
        "abstand hälfte drittel viertel fünftel zehntel mittel vergleich zeitraum gesamt rest schlusslicht "
        "minimum maximum tag tage tagen woche wochen monat monate monaten jahr jahre jahren quartal ergebnis "
        "zeile zeilen eintrag einträge"
    ),
)
_OF: Final = {"en": _EN, "de": _DE}
_LONGEST_NUMBER: Final = 9
"""Digits of a number that somebody counts with."""


def telling(language: str) -> Telling:
    """Those of a language."""
    return _OF[language]


def number_of(word: str, language: str) -> int | None:
    """The whole number that a word is, in figures or in letters; None where it is none."""
    if word.isdecimal():
        return int(word) if len(word) <= _LONGEST_NUMBER else None
    found = telling(language).counts.get(word)
    return None if found is None else int(found)


def orders(language: str) -> frozenset[str]:
    """Words that count, or say which of several: with one of them a word is another thing than without."""
    known = telling(language)
    return known.most | known.least | known.last | frozenset({*known.counts, *known.ranks, *known.parts})
