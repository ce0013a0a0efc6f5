# The sentence over a result. Values come written out; $count is a number where a form depends on it.

period-year = { $one }
period-years = von { $one } bis { $other }
period-quarter = im { $number }. Quartal { $year }
period-fiscal-year = im Geschäftsjahr { $year }
period-month = im { $one }
period-months = von { $one } bis { $other }
period-week = in der Woche ab { $one }
period-day = am { $one }
period-days = vom { $one } bis { $other }
period-span = von { $one } bis { $other }
period-since = seit { $one }
period-from = ab { $one }
period-before = vor { $one }
period-so-far = { $period } bisher
period-to-now = seit { $one }
period-until-now = bis jetzt
and = { $one } und { $other }
with-conditions = { $what } ({ $conditions })
by-time = { $when } ({ $words })
by = { $what } nach { $per }
not = nicht { $what }
points = Prozentpunkte
unsaid = ohne Angabe
quarter = { $number }. Quartal { $year }
no-value = kein Wert

none = Nichts gefunden: { $what }.
restated = { $count ->
    [0] Keine
   *[other] { $n }
}
figure = { $what }: { $value }.
figures = { $head }: { $parts }.
part = { $what } { $value }
more = { $what }: { $one } { $period }, { $difference } mehr als { $before } ({ $other }).
less = { $what }: { $one } { $period }, { $difference } weniger als { $before } ({ $other }).
level = { $what }: { $one } sowohl { $period } als auch { $before }.
list = { $count ->
    [one] { $things }: { $names }.
   *[other] { $n } { $things }: { $names }.
}
list-more = { $n } { $things }: { $names } und { $more } weitere.

highest = { $what }: { $name } liegt mit { $value } am höchsten{ $then }.
lowest = { $what }: { $name } liegt mit { $value } am niedrigsten{ $then }.
ahead = , { $difference } vor { $name } ({ $value })
below = , { $difference } unter { $name } ({ $value })
level-first = { $what }: { $names } liegen mit { $value } gleichauf.
then-lowest = Am niedrigsten von allen { $all } liegt { $name } mit { $value }.
then-highest = Am höchsten von allen { $all } liegt { $name } mit { $value }.
then-last = Als letztes der { $all } gezeigten folgt { $name } mit { $value }.
all-equal = { $what }: bei allen { $all } { $value }.

trend = { $what }: von { $first } ({ $from }) auf { $last } ({ $to }); am höchsten: { $high } mit { $most }, am niedrigsten: { $low } mit { $least }.
trend-flat = { $what }: durchgehend { $value }, von { $from } bis { $to }.
trend-up = { $last } liegt { $difference } über { $before }.
trend-down = { $last } liegt { $difference } unter { $before }.
trend-level = { $last } liegt gleichauf mit { $before }.
unfinished = { $name } ist noch nicht vorbei: bisher { $value }.
extremes = { $what }: { $all } Werte, am höchsten bei { $high } ({ $most }), am niedrigsten bei { $low } ({ $least }).

# Die Rückübersetzung, ein Teil auf jeder Zeile.
line-does = Im Ganzen
line-counted = Gezählt
line-shown = Gezeigt
line-from = Aus
line-only = Nur
line-by-notes = Laut Notizen
line-per = Je
line-kept = Behalten
line-once = Einmal
line-order = Geordnet
line-first = Die ersten
line-after = Ohne die ersten
line-as-written = Wie geschrieben
along-keys = { $tables }, entlang ihrer Schlüssel
equal-rows = gleiche Zeilen

# Ein Ergebnis, von dem nur die Zeilen bekannt sind.
rows-none = Nichts in den Daten erfüllt diese Bedingungen.
rows = { $n } Zeilen
rows-cut = Mehr als { $n } Zeilen
rows-alone = { $rows }.
rows-named = { $rows }: { $names }.
rows-named-more = { $rows }: { $names } und { $more } weitere.

# Diagramme.
chart-line = Linie
chart-bars = Balken
chart-columns = Säulen
chart-parts = Ring aus Teilen
chart-points = Punkte
chart-grid = Raster aus Tönen
chart-unfit = Diese Zeilen lassen sich nicht als { $wish } zeichnen; gezeichnet sind sie als { $kind }.
chart-none = Ein Bild dieser Zeilen würde nicht mehr sagen als die Tabelle.
chart-no-figures = In diesen Zeilen gibt es keine Zahlen, die sich zeichnen lassen.
chart-one-row = Es gibt nur eine Zeile: Das ergibt kein Bild.
chart-one-column = Neben den Zahlen steht nichts, woran sie sich zeichnen lassen.
chart-many-columns = Mehr als zwei Spalten unterscheiden diese Zeilen: Das ist zu viel für ein Bild.
chart-too-many = Es sind zu viele Zeilen, um sie zu zeichnen.
chart-unknown = „{ $wish }“ ist als Wunsch an das Bild nicht zu verstehen. Sagen Sie wie („als Balken“), wonach („nach Schiff“) oder wie viele („nur die ersten 10“).
yes = ja
no = nein
chart-wished = Gezeichnet als { $kind }, wie „{ $words }“ es wünscht.
chart-table = Kein Bild, wie „{ $words }“ es wünscht.
chart-rest = und { $n } weitere, die nicht gezeichnet sind: { $names }
chart-under-way = { $name } ist noch nicht zu Ende.
chart-from = Die Achse beginnt bei { $value }.
chart-cut = Gezeichnet aus den gezeigten Zeilen; das sind nicht alle.

# Eine alte Antwort, noch einmal.
since-same = Dasselbe wie am { $when }.
since-changed = Seit { $when }: { $parts }.
since-unkept = Die Zeilen vom { $when } sind nicht mehr aufbewahrt; es lässt sich nichts vergleichen.
since-other-columns = Es kommen andere Spalten als am { $when }: Die Tabellen selbst haben sich geändert.
since-part = Verglichen sind die gezeigten Zeilen; das sind nicht alle.
since-come = { $count ->
    [one] eine Zeile ist hinzugekommen{ $names }
   *[other] { $n } Zeilen sind hinzugekommen{ $names }
}
since-gone = { $count ->
    [one] eine Zeile ist weg{ $names }
   *[other] { $n } Zeilen sind weg{ $names }
}
since-moved = { $count ->
    [one] eine weitere Zeile ist anders
   *[other] { $n } weitere Zeilen sind anders
}
since-more = { $name } { $now }, { $by } mehr als damals ({ $then })
since-less = { $name } { $now }, { $by } weniger als damals ({ $then })
since-else = { $name } { $now }, damals { $then }

# Eine Anmerkung, wo die Zahlen eine hergeben.
remark-gap = { $count ->
    [one] Für { $names } gibt es nichts.
   *[other] Für { $n } der Zeiten dazwischen gibt es nichts: { $names }.
}
remark-step-up = Der größte Schritt ist der von { $before } zu { $last }: { $difference } mehr.
remark-step-down = Der größte Schritt ist der von { $before } zu { $last }: { $difference } weniger.
remark-most = { $name } allein macht { $share } % von allem aus.
remark-far = { $name } liegt weit vom Rest entfernt: Die Hälfte aller liegt zwischen { $low } und { $high }.

# -- ein ganzes Ergebnis

delivered = { $rows ->
    [0] Das ganze Ergebnis hat keine Zeilen.
    [one] Das ganze Ergebnis: 1 Zeile, als Datei.
   *[other] Das ganze Ergebnis: { $written } Zeilen, als Datei.
}
delivered-cut-rows = Nicht das ganze Ergebnis: Lieferungen enden hier nach { $written } Zeilen.
delivered-cut-bytes = Nicht das ganze Ergebnis: wegen seiner Größe endet es nach { $written } Zeilen.
delivered-without = Ohne Persönliches: { $columns }. In einer Datei, die herausgegeben wird, steht es hier nicht.

# Wie frisch die Daten sind.
fresh-column = Daten bis { $at }.
fresh-replica = Aus einer Kopie mit dem Stand { $at }.
fresh-file = Aus einer Datei, zuletzt geschrieben am { $at }.
