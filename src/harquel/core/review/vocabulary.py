"""The English words that a question is read by: what counts, averages, ranks, denies, and what says nothing."""

from __future__ import annotations

import re
from typing import Final, Literal

from harquel.core.briefing.words import EMPTY, stem

UNITS: Final = {
    "euro": "EUR", "euros": "EUR", "eur": "EUR", "cent": "euro cents", "cents": "euro cents", "knots": "knots",
    "knot": "knots", "kn": "knots", "litres": "litres", "liters": "litres", "litre": "litres", "liter": "litres",
    "km": "km", "kilometres": "km", "kilometers": "km", "m": "m", "metres": "m", "meters": "m",
    "seconds": "seconds", "minutes": "minutes", "minute": "minutes", "hours": "hours", "days": "days",
    "percent": "%", "percentage": "%", "kg": "kg", "kilograms": "kg", "tonnes": "t", "miles": "nautical miles",
    "nm": "nautical miles",
}  # fmt: skip
UNIT_WORDS: Final = frozenset({*UNITS, "nautical", "mile", "square", "cubic", "metric"})
CALENDAR: Final = {
    "year": "year", "years": "year", "yearly": "year", "quarter": "quarter", "quarters": "quarter", "month": "month",
    "months": "month", "monthly": "month", "week": "week", "weeks": "week", "weekly": "week", "day": "day",
    "days": "day", "daily": "day", "date": "day", "hour": "hour", "hours": "hour", "weekday": "weekday",
    "weekdays": "weekday", "hourly": "hour",
}  # fmt: skip
NUMBERS: Final = {
    "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11,
    "twelve": 12, "fifteen": 15,
    "twice": 2, "thrice": 3, "dozen": 12, "twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "hundred": 100,
}  # fmt: skip
HIGH: Final = frozenset(
    "most highest largest biggest longest strongest busiest latest newest top greatest maximum max peak heaviest "
    "fastest widest deepest hottest dearest commonest likeliest gravest richest fullest".split()
)
LOW: Final = frozenset(
    "least fewest lowest smallest shortest weakest minimum min quietest slowest cheapest earliest lightest rarest "
    "mildest calmest emptiest poorest".split()
)
_NO_SUPERLATIVES: Final = frozenset(
    "interest forest request harvest protest contest suggest invest honest modest arrest conquest digest latest "
    "priest manifest".split()
)


def is_superlative(word: str) -> bool:
    """Whether a word that is not listed is one by its form: windiest, thirstiest."""
    return len(word) > 5 and word.endswith("est") and not word.endswith("west") and word not in _NO_SUPERLATIVES


GOOD_OR_BAD: Final = frozenset("best worst".split())
ADJECTIVES: Final = {
    "longest": ("length", "distance", "duration"), "shortest": ("length", "distance", "duration"),
    "heaviest": ("weight", "tonnage"), "oldest": ("built", "age", "born", "hired", "joined"),
    "newest": ("built", "age", "hired", "joined"), "fastest": ("speed",), "tallest": ("height",),
    "youngest": ("built", "age", "born", "birth"), "expensive": ("price", "cost", "fee", "fare", "charge"),
    "costly": ("price", "cost", "fee", "fare", "charge"), "cheapest": ("price", "cost", "fee", "fare", "charge"),
    "priciest": ("price", "cost", "fee", "fare", "charge"),
}  # fmt: skip
"""Superlatives that say by themselves which column they mean, when the thing has one of such a name."""
AVERAGE: Final = frozenset("average averages mean avg typical".split())
SHARE: Final = frozenset("share shares percent percentage percentages proportion fraction split ratio".split())
TOTAL: Final = frozenset("total sum altogether overall combined".split())
NOT: Final = frozenset("not no never without none except excluding nobody neither nor nothing".split())
COMPARES: Final = frozenset(
    "older younger newer longer shorter higher lower bigger larger smaller greater fewer earlier sooner faster slower "
    "heavier lighter stronger weaker better worse cheaper dearer busier quieter graver milder fuller emptier deeper "
    "wider below above beyond beneath".split()
)
SAYS_HOW: Final = COMPARES | HIGH | LOW | GOOD_OR_BAD | AVERAGE | SHARE | TOTAL | ADJECTIVES.keys()
HAPPENED: Final = frozenset(
    stem(w)
    for w in (
        "made make ran run runs running took take takes place happened happen occurred carried carry departed depart "
        "left leave leaves sailed sail sails completed complete performed operated worked work made done arrived "
        "went go goes gone set"
    ).split()
)
"""Verbs that say that something took place; what has not, is left out by a condition on it."""
FILLERS: Final = frozenset(
    stem(w)
    for w in (
        "number numbers amount amounts count counts total sum average mean median overall altogether share percent "
        "percentage proportion fraction ratio rate split figure figures value values list lists name names detail "
        "details information data entry record row result different distinct unique several multiple various same "
        "similar include including together respectively case cases kind sort type exist exists existing currently "
        "current now today far ago yet still already ever always often usually soon later recent recently recorded "
        "because due reason reasons thanks owing through via within across among along near around about long short "
        "high low big large small great good bad much many high highest lowest largest smallest longest shortest "
        "strongest busiest worst best top bottom first last order ordered sorted rank ranked ranking descending "
        "ascending frequent common compare comparison difference change against versus start starts started end ends "
        "ended begin begins lie lies use uses used using spend spends spent cost costs need needs needed want like "
        "know see look gave got get gets earn earned earning bring brought belong belongs live lives come comes came "
        "call called happen made make take took give gave put hold holds held keep kept fit fits mean means service "
        "have had has become became burn burned burnt consume consumed consumption exceed exceeds exceeded reach "
        "reached left remain remains remaining involve involved touch touches serve serves served running total "
        "median day month year week quarter hour minute second weekday weekend half period time date times dates "
        "one once single only also too per each every either both group grouped groups broken down up to and less "
        "more least most than other another rather instead apart from hand side state status open opened join book "
        "recent going go way ways please kindly tell say said ask asked asking question answer euros euro eur cents "
        "where but late later latest early delay delays delayed reading readings nobody none "
        "ahead s t re ve d ll m dont didnt doesnt isnt arent wasnt werent havent hasnt wont cant"
    ).split()
)


NO_NAMES: Final = EMPTY | NOT | {"several", "multiple", "various", "but"}

_PRICE: Final = frozenset(map(stem, "price cost fee fare charge rate tariff amount total".split()))
MEASURED: Final = {
    "charge": _PRICE, "charged": _PRICE,
    "cost": _PRICE, "costs": _PRICE, "price": _PRICE, "prices": _PRICE, "weigh": frozenset({"weight", "mass"}),
    "weighs": frozenset({"weight", "mass"}),
}  # fmt: skip
"""Words that say what is measured, and the stems in the names of columns that hold it."""
_OPPOSITE: Final = (
    ("pass", "fail"), ("open", "close"), ("active", "inactive"), ("present", "absent"), ("present", "absence"),
    ("paid", "unpaid"), ("accept", "reject"), ("win", "lose"), ("full", "empty"), ("available", "unavailable"),
    ("valid", "expired"), ("success", "fail"), ("alive", "dead"), ("online", "offline"), ("enabled", "disabled"),
    ("public", "private"),
)  # fmt: skip
OPPOSITES: Final = {
    stem(word): frozenset(stem(b) for pair in _OPPOSITE for a, b in (pair, pair[::-1]) if a == word)
    for pair in _OPPOSITE for word in pair
}  # fmt: skip
"""The stem of a word, and those that say that it is not so."""
PREFIXES: Final = ("over", "un", "non", "re", "pre", "mis")
"""What may stand before a word of the source, joined to it."""
LIGHT: Final = frozenset(
    "anyone anybody anything everyone everybody everything someone somebody something thing things money cash "
    "send sends sent offer offers provide provides attract attracts generate generates produce produces bring brings "
    "contain contains appear appears host hosts pay pays give gives given grant grants granted receive receives "
    "received obtain obtained happen get gets next coming ones whole entire full fully completely exactly roughly "
    "approximately about really actually simply just partly mostly mainly especially particularly again back forward "
    "onwards develop develops developed evolve evolves evolved vary varies varied elapsed passed trend trends minus "
    "plus commonly summer winter spring autumn lose loses losing lost fail fails failing while whilst "
    "whereas although though unless nowadays meanwhile generally normally maybe perhaps thus hence however therefore "
    "besides moreover furthermore quite very away aside throughout toward towards upon itself themselves ourselves "
    "yourself myself typically precisely merely purely solely entirely wholly might shall ought wonder curious "
    "interested understand check let lets quick quickly overview story idea doing folks".split()
)
"""Words that a question may hold without asking for anything by them."""
MONEY: Final = frozenset(
    "bill bills charge charges charged outlay outlays expense expenses spending expenditure money cash".split()
)
"""Words for an amount of money, whatever it was for."""
LESSER: Final = (
    "less fewer shorter younger lower smaller earlier cheaper lighter weaker slower milder calmer closer nearer"
)
"""Comparatives that mean the smaller side of a number; the others in -er mean the larger one."""
OUTSTANDING: Final = frozenset("still yet open outstanding pending owed owing unpaid due overdue unfinished".split())
"""Words that say that something has not come about: there is no time of it."""
RUNNING: Final = re.compile(r"\b(?:running (?=total|sum|count|average|mean|balance)|cumulative)")
"""What says that figures are added up as they go along."""
DEADLINES: Final = frozenset(
    map(stem, "due deadline promised planned scheduled expected estimated target agreed".split())
)
"""Stems in the names of columns that say when something ought to be."""
OF_AGE: Final[dict[str, Literal["high", "low"]]] = {
    "oldest": "low", "earliest": "low", "eldest": "low", "youngest": "high", "newest": "high", "latest": "high",
}  # fmt: skip
"""Superlatives of age: the oldest has the lowest date."""
AGES: Final = frozenset("age ages aged old".split())
BEGINNINGS: Final = frozenset(map(stem, "birth birthday born built build founded".split()))
"""An age is reckoned from a time in whose name one of these stems stands."""
MORE_IS_BETTER: Final = frozenset(map(stem, "points score mark rating stars profit revenue income turnover".split()))
"""Stems in the names of columns of which the best is the highest."""
