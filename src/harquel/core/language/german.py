"""German."""

from __future__ import annotations

from typing import Final

from harquel.core.language.pack import Pack, bases, words

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
    leads=words(
        "und aber dann jetzt nun nur bloß stattdessen lieber also dasselbe selbe gleiche nochmal ok okay für so danke"
    ),
    places=words("für des der"),
    between=words(
        "der die das den dem des ein eine einen einem einer eines diese dieser dieses es sie ist sind war waren wird "
        "werden wurde wurden hat haben hatte hatten im in am"
    ),
    tag=r"(?:stimmt|richtig|wirklich|oder|nicht wahr|stimmt['’]?s)",
    since_then=(("seitdem",), ("seither",)),
    openers=(("was", "ist", "mit"), ("wie", "ist", "es", "mit"), ("wie", "sieht", "es", "mit")),
    why=words("warum weshalb wieso woran"),
    directions=words("in im mit von vom nach aus zu zum zur über durch ab bei an am auf zwischen gegen ohne"),
    pictures=bases(
        "line linie linien kurve, bars balken, columns säule säulen, parts kreis torte torten ring, "
        "points punkte punkt streu, grid raster heatmap, table tabelle"
    ),
    chart=words("diagramm grafik chart bild schaubild"),
    each=words("nach je pro"),
    as_a=words("als in mit"),
    only_as=words("als"),
    only_first=words("nur ersten erste besten zeichne gezeichnet"),
    asking=words("wie viele viel anzahl zahl pro je jede jeden jedes jedem"),
    times=bases(
        "in im, january januar, february februar, march märz maerz, may mai, june juni, july juli, october oktober, "
        "december dezember, monday montag, tuesday dienstag, wednesday mittwoch, thursday donnerstag, friday freitag, "
        "saturday samstag sonnabend, sunday sonntag, year jahr jahres, years jahre jahren, quarter quartal quartals, "
        "quarters quartale quartalen, month monat monats, months monate monaten, week woche, weeks wochen, "
        "day tag tages, days tage tagen, this dieses diesen diesem dieser diese, "
        "last letztes letzten letzter letztem letzte vergangenes vergangenen vergangener vorigen voriges voriger, "
        "next nächstes nächsten nächster nächste kommenden kommendes kommender, today heute, yesterday gestern, "
        "tomorrow morgen, since seit, until bis, between zwischen, first erstes ersten erster, second zweites zweiten "
        "zweiter, third drittes dritten dritter, fourth viertes vierten vierter, fy geschäftsjahr, spring frühling "
        "frühjahr, summer sommer, autumn herbst, half halbjahr halbjahres hälfte"
    ),
    capital_nouns=True,
    denials=words("nicht nie niemals kein keine keinen keinem keiner keines niemand nichts weder noch ohne außer"),
)
