"""German as far as the simulated model knows it: words in the place of words, compounds by their parts.

What follows reads English; a German word keeps how it was written, so that a reading quotes it as it stands. What a
place calls its things in German stands in its notes, as synonyms.
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from .words import EMPTY, Token, stem

_COMMON = frozenset(
    "der die das den dem des und ist sind war waren wie viele viel welche welcher welches im in am".split()
)
_COMMON |= frozenset("je pro nach für von vom zeige haben hatten wurde wurden dieses letzten letzter ein eine".split())
_MEANT = """
der die das den dem des ein eine einen einem einer eines: the; und: and; oder: or; in im ins beim bei an: in
am: the; von vom der: of; für: for; mit: with; ohne: without; auf: on; aus ab: from; nach: by
je pro jede jeden jedem jeder jedes: per; seit: since; vor: before; bis: until; zwischen: between; über: over
unter: below; mehr: more; weniger: fewer; als: than; mindestens: at least; höchstens: at most; wie: how
viele viel: many; welche welcher welches welchen welchem was: which; wer: who; wann: when; warum weshalb: why
ist sind war waren sei: is; wird werden wurde wurden worden: was; hat haben hatte hatten: have
gibt gab gemacht: made; wir uns unser unsere: we; es sie: it; zeige zeig liste nenne: show; alle aller allen: all
nie niemals: never; nicht: not; kein keine keinen: no; bitte: please; so: so; insgesamt gesamt: total; hoch: high
lang lange: long; meisten meiste: most; wenigsten: fewest; besten beste: best; schlechtesten schlechteste: worst
ersten erste: first; höchste höchsten größte größten: highest; niedrigste kleinste kleinsten: lowest
stärkste stärksten: strongest; längste längsten: longest; kürzeste kürzesten: shortest; älteste ältesten: oldest
neueste neuesten neuester jüngste: newest; teuerste teuersten: dearest; billigste günstigste: cheapest
letzte letzten letzter letztes letztem vergangenen: last; dieser dieses diesem diesen diese: this; heute: today
gestern: yesterday; morgen: tomorrow; bisher: so far; tag tage tagen: day; woche wochen: week
monat monate monaten: month; quartal quartale: quarter; jahr jahre jahren: year; stunde stunden: hour
minute minuten: minute; wochentag wochentage: weekday; uhrzeit: hour; januar: january; februar: february
märz: march; april: april; mai: may; juni: june; juli: july; august: august; september: september; oktober: october
november: november; dezember: december; montag: monday; dienstag: tuesday; mittwoch: wednesday; donnerstag: thursday
freitag: friday; samstag: saturday; sonntag: sunday; eins: one; zwei: two; drei: three; vier: four; fünf: five
sechs: six; sieben: seven; acht: eight; neun: nine; zehn: ten; zwölf: twelve; zwanzig: twenty; anzahl zahl: number
summe: sum; durchschnitt schnitt mittel: average
durchschnittlich durchschnittliche durchschnittlicher durchschnittliches mittlere: average; anteil prozent: share
rate quote: rate; kunde kunden kundin: customer
bestätigt bestätigte bestätigten: confirmed
ausgefallen storniert stornierte stornierten abgesagt fiel fielen fällt fallen: cancelled
ausfall ausfälle stornierung stornierungen: cancellation; verspätung verspätungen verspätet: delay; dauer: duration
dauert dauern: take; grund gründe: reason; schwere: severity; kategorie: category; kosten: cost; liter: litres
verbraucht verbrauch: used; wind: wind; höhe: height; sicht: visibility; wetter: weather; preis preise: price
wert: value; zahlung zahlungen: payment; bezahlt: paid; auto autos: car; fahrrad fahrräder rad räder: bicycle
tier tiere: animal; leute mitarbeiter personen: people; arbeiten arbeitet: work; telefon: phone; web internet: web
schalter: counter; befördert befördern gefahren: carried; karte karten: card; bar: cash; länge: length; größe: size
kapazität plätze: capacity; gebaut: built
"""
_LINKS = ("", "s", "n", "en", "er", "es")
_ENDINGS = ("", "en", "er", "es", "em", "e", "n", "s")
_SHORTEST = 3
_PARTED = {"aus": ("fiel", "fielen", "fällt", "fallen")}
"""Verbs whose first part ends the sentence."""


def _table() -> dict[str, str]:
    pairs = (entry.split(":") for line in _MEANT.strip().splitlines() for entry in line.split(";"))
    return {word: meant.strip() for words, meant in pairs for word in words.split()}


_WORDS = _table()


def in_english(words: list[Token]) -> list[Token]:
    """The words of a German question by what they mean; those of any other as they are."""
    words = _together(words)
    meant = [_meant(word.low) for word in words]
    told = any(
        word.low in _COMMON or (m and word.low not in EMPTY and m != word.low)
        for word, m in zip(words, meant, strict=True)
    )
    if not told or sum(map(bool, meant)) * 3 < len(words):
        return words
    found = []
    for word in words:
        parts = _meant(word.low).split() or [word.low]
        # What one word says in two is quoted once.
        found += [Token(word.text if not n else "", part, stem(part)) for n, part in enumerate(parts)]
    return found


def _together(words: list[Token]) -> list[Token]:
    """The same with a verb that stands in two places ("fielen … aus") as one word, quoted as it stands."""
    parted = _PARTED.get(words[-1].low, ()) if words else ()
    at = next((n for n, word in enumerate(words[:-1]) if word.low in parted), None)
    if at is None:
        return words
    between = " " if at == len(words) - 2 else " … "
    whole = replace(words[at], text=f"{words[at].text}{between}{words[-1].text}")
    return [*words[:at], whole, *words[at + 1 : -1]]


@lru_cache(maxsize=4096)
def _meant(word: str) -> str:
    """What a word means; of a compound what its parts mean; empty where it is not known."""
    for ending in _ENDINGS:
        if word.endswith(ending) and (word.removesuffix(ending) if ending else word) in _WORDS:
            return _WORDS[word.removesuffix(ending) if ending else word]
    for at in range(_SHORTEST, len(word) - _SHORTEST + 1):
        head, tail = word[:at], word[at:]
        for link in _LINKS:
            first = head.removesuffix(link) if link else head
            if first in _WORDS and (not link or head != first) and tail in _WORDS:
                return f"{_WORDS[first]} {_WORDS[tail]}"
    return ""
