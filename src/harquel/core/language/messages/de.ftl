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
in-part = { $name } ist nur zum Teil dabei: { $value }.
unfinished = { $name } ist noch nicht vorbei: bisher { $value }.

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
delivered-without = Ohne { $columns }: was persönlich ist oder nicht mehr kommt, steht nicht in einer Datei, die herausgegeben wird.

# Wie frisch die Daten sind.
fresh-column = Daten bis { $at }.
fresh-replica = Aus einer Kopie mit dem Stand { $at }.
fresh-file = Aus einer Datei, zuletzt geschrieben am { $at }.

# Hinweise: was an einer Abfrage oder ihren Zeilen zweifelhaft ist.
caveat-averages-averages = Es wird der Durchschnitt von Durchschnitten oder Anteilen gebildet: ungleich große Gruppen wiegen gleich.
caveat-sum-times-average = Eine Summe mal einen Durchschnitt ist nicht die Summe der Produkte.
caveat-bare-column = Nach { $column } wird weder gruppiert noch wird es zusammengefasst: der Wert ist der irgendeiner Zeile.
caveat-clock = Die Abfrage fragt die Uhr der Datenbank; in der Frage geht es um { $now }.
caveat-distinct-drops = { $figure }(DISTINCT …) nimmt gleiche Werte nur einmal.
caveat-distinct-values = Gezählt werden die verschiedenen Werte von { $column }, nicht wozu sie gehören.
caveat-integer-division = Auf beiden Seiten stehen ganze Zahlen: der Bruchteil wird abgeschnitten.
caveat-last-day-lost = Der letzte Tag, { $day }, zählt nur mit seinem ersten Augenblick: { $column } hat eine Uhrzeit.
caveat-left-join-undone = Die Bedingung für { $table } in WHERE lässt die Zeilen weg, die LEFT JOIN behalten sollte.
caveat-counts-empty = COUNT(*) zählt eins für eine Zeile, zu der es kein { $table } gibt.
caveat-multiplied = Eine Zeile von { $table } steht für jede Zeile von { $by } einmal da, so dass sie zu oft { $figure ->
    [sum] addiert
    [avg] gewichtet
   *[count] gezählt
} wird.
caveat-null-compared = Nichts ist gleich NULL, nicht einmal NULL: die Bedingung gilt nie.
caveat-not-in-nullable = { $column } kann NULL sein, und dann lässt NOT IN nichts durch.
caveat-nulls-lost = Zeilen, in denen { $column } „{ $means }“ (NULL) ist, bleiben ebenfalls weg.
caveat-null-as-zero = Zeilen ohne Wert gehen als null in den Durchschnitt ein.
caveat-counts-nothing = Gezählt werden Werte von { $column } in Zeilen, die keine haben.
caveat-divided-by-none = Auch durch Zeilen ohne { $column } wird geteilt.
caveat-types-differ = { $left } enthält Werte der Art { $one }, { $right } der Art { $other }.
caveat-off-key = Kein Schlüssel verbindet { $left } mit { $right }.
caveat-wrong-whole-time = Das Ganze wird über alle Zeiten gezählt, der Teil nur, wo { $column } begrenzt ist.
caveat-wrong-whole = Im Ganzen fehlen Zeilen, die im Teil vorkommen können.
caveat-unit-called = Der Wert ist in { $unit }; er heißt { $name }.
caveat-unjoined = Nichts verbindet { $right } mit { $left }: jede Zeile trifft auf jede.
caveat-unknown-kind = { $column } enthält { $kind ->
    [boolean] wahr oder falsch
   *[number] Zahlen
}, nicht „{ $value }“.
caveat-wrong-case = { $column } enthält „{ $same }“, nicht „{ $value }“: die Großschreibung zählt.
caveat-code-by-meaning = { $column } enthält Kürzel; was Sie „{ $value }“ nennen, steht als „{ $code }“ da.
caveat-unknown-value = { $column } enthält nirgends „{ $value }“.
caveat-result-cut = Das Ergebnis wurde bei der erlaubten { $by ->
    [rows] Zahl von Zeilen
   *[bytes] Größe
} abgeschnitten: dies sind die ersten { $rows } Zeilen.
caveat-result-empty = Nichts in den Daten erfüllt alle Bedingungen; das mag so sein, oder eine Bedingung ist falsch.
caveat-result-all-null = Der Wert ist leer: keine Zeile ging in ihn ein.
caveat-result-repeats = Manche Zeilen stehen mehrmals da.
caveat-result-alike = Manche Zeilen sehen gleich aus: es sind verschiedene, mit denselben Werten in dem, was gezeigt wird.
caveat-result-unnamed = Eine Zeile hat kein { $name }: sie steht für alle, in denen { $column } leer ist.
caveat-result-backwards = { $figure } ist höchstens { $value }: die spätere Zeit wird von der früheren abgezogen.
caveat-result-negative = { $figure } ist { $value }: so kann nichts gezählt sein.
caveat-result-constant = { $figure } ist in jeder Zeile { $value }.
caveat-no-share = { $figure } ist { $value }: dort liegt kein Anteil.
caveat-result-outside = { $figure } ist { $value }; { $column } lag zwischen { $least } und { $most }.
caveat-total-differs = { $rows } Zeilen von { $table } werden mehr als einmal gezählt: ein Join verbindet sie mit mehreren.
caveat-none-left = Wegen { $condition } bleibt keine Zeile; ohne das sind es { $rows }.
caveat-none-left-there = { $said } Dort ist { $column } { $held }.
caveat-no-group = Keine Gruppe erfüllt { $condition }: { $figure } liegt zwischen { $least } und { $most }.
caveat-result-ties = Die nächste Zeile ist gleichauf mit der letzten gezeigten ({ $value }): welche davon wegfällt, ist Zufall.
caveat-not-reviewed = Die Regel { $rule } konnte diese Abfrage nicht lesen.
caveat-unconfirmed = Das ließ sich auf keinem zweiten Weg ausrechnen: nichts bestätigt es als das SQL selbst.
caveat-unconfirmed-beside = Neben dem, was auf einem zweiten Weg ausgerechnet wurde, steht ein Wert, den nichts bestätigt.
caveat-control-differs = Unsere eigene Abfrage, gebaut aus der Frage, wie { $model } sie liest, gibt ein anderes Ergebnis: { $said }.
caveat-changed-differs = Unsere eigene Abfrage, gebaut aus dem, wie die Frage davor gelesen wurde, geändert wie gesagt, gibt ein anderes Ergebnis: { $said }.
caveat-draft-differs = Ein zweiter Entwurf, von { $model }, gibt ein anderes Ergebnis: { $said }.
caveat-doubtful-itself = { $said } Er ist selbst zweifelhaft: { $doubt }
caveat-said-left-out = Was von { $numbers } gesagt wurde, gehört nicht zu der Frage, die hier beantwortet wird.
caveat-two-readings = Die Frage lässt sich auf { $n } Weisen lesen: { $ways }. Diese Antwort nimmt eine davon.
or-else = { $one }; oder { $other }
follow-per = je { $words }
follow-only = nur { $words }
caveat-withheld = In der Frage geht es um { $words }; das wird hier zurückgehalten, und die Antwort lässt es weg.
caveat-silenced = Für diese Frage von der fragenden Person abgestellt: { $names }.
caveat-silenced-said = { $said } Gesagt hätte es: { $would }
differs-figure = { $other } statt { $one }
differs-rows = { $n ->
    [1] eine Zeile
   *[other] { $other } Zeilen
} statt { $one }
differs-values = ebenfalls { $n ->
    [1] eine Zeile
   *[other] { $other } Zeilen
}, mit anderen Werten
differs-order = dieselben Zeilen in anderer Reihenfolge
differs-also-asks = Sie verlangt auch: { $condition }; ohne das stimmen die beiden überein
differs-this-also-asks = Diese Antwort verlangt auch: { $condition }; ohne das stimmen die beiden überein
differs-this-stops = Diese Antwort endet nach { $rows } Zeilen; ohne das stimmen die beiden überein
differs-stops = Sie endet nach { $rows } Zeilen; ohne das stimmen die beiden überein
and-why = { $said }. { $why }
same-result = Eine andere Abfrage mit demselben Ergebnis
same-as-far = Eine andere Abfrage mit demselben Ergebnis, soweit es reicht, was nichts entscheidet

# Wie eine Anfrage ohne Antwort endet.
end-out-of-time = Die Anfrage dauerte länger, als sie darf.
end-out-of-tokens = Die Anfrage verbrauchte mehr Token, als sie darf.
narrower = Fragen Sie enger, oder lassen Sie { $limit } von jemandem anheben, der die Quelle betreut.
end-standstill = Alles steht still: keine Abfrage erreicht eine Datenbank.
end-standstill-hint = Die Verwaltung hebt das mit harquel standstill off auf; fragen Sie dann noch einmal.
end-account = Mit diesem Konto wird nichts gefragt. { $fault }
end-account-hint = Wer die Quelle betreut, verbindet sie mit einem Konto, das nur lesen darf: harquel source account druckt das Skript.
end-change = Die Frage verlangt eine Änderung; hier darf nur gelesen werden.
end-change-hint = Fragen Sie stattdessen nach den Zahlen, oder ändern Sie es in der Anwendung, der die Daten gehören.
end-not-in-data = In den Daten steht nicht, was die Frage braucht, sagt das Modell.
end-not-in-data-hint = Fragen Sie, wer die Quelle betreut, ob es die Daten woanders gibt, oder sagen Sie es mit Worten, die die Quelle kennt.
models-words = In den Worten des Modells: { $words } { $then }
answered-here = { $then } Hier beantwortet wird zum Beispiel: { $questions }
end-not-granted = Die Tabelle { $table } ist da, aber das Konto dieses Dienstes darf sie nicht lesen.
end-not-granted-hint = Noch nicht erlaubt: die Verwaltung der Datenbank führt aus: { $grant }
end-refused-hint = Fragen Sie nach etwas, das nur liest, oder fragen Sie enger.
no-usable-reply = Keine brauchbare Antwort.
end-no-draft = Aus { $n } Versuchen kam kein brauchbares SQL. Zuletzt: { $reason }
end-no-draft-hint = Stellen Sie die Frage mit anderen Worten, oder lassen Sie die Daten beschreiben, um die es geht.
end-not-stored = Die Datei konnte nicht geschrieben werden: { $why }.
end-not-stored-hint = Sagen Sie es dem Betrieb: der Datenträger ist voll.
end-cancelled = Die Anfrage wurde angehalten, bevor sie zu Ende war.
end-model-unusable = Das Modell half nicht weiter: { $said }
end-source-unreachable = Die Datenbank war nicht zu lesen: { $said }
end-internal = Bei uns ging etwas schief: { $said }
end-no-delivery = Von dieser Quelle werden keine ganzen Ergebnisse ausgegeben.
end-no-delivery-hint = Fragen Sie, wer die Quelle betreut: in ihren Regeln fehlt der Abschnitt delivery.
end-delivery-roles = Ganze Ergebnisse dieser Quelle werden nur an einige Rollen ausgegeben.
end-delivery-roles-hint = Fragen Sie jemanden, der eine davon hat: { $roles }.
end-delivery-personal-hint = Was ausgegeben wird, enthält hier keine persönlichen Spalten: nehmen Sie sie aus der Frage.
asks-nothing = Das fragt nach nichts, was die Daten sagen könnten. Was möchten Sie wissen?
follow-up-unclear = Was gefragt ist, ließ sich aus dem, was davor war, nicht erkennen. Stellen Sie es als ganze Frage: was wird gezählt, welche davon und wann?
redraft-same = Dieselben Zeilen wie davor.
claim-right = Das sind die { $claimed }, die Sie nannten.
claim-wrong = Es sind nicht die { $claimed }, die Sie nannten.
model-asks = Das Modell fragt: { $question }
meant-differently = Die Frage kann so gemeint sein, dass Verschiedenes herauskommt. Wie ist sie gemeint?

# Wie eine Frage verstanden wurde, Teil für Teil.
read-rows = Zeilen von { $table }
read-and = { $one } und { $other }
read-or = { $one } oder { $other }
read-not = nicht: { $what }
read-where = { $what }, wobei { $conditions }
read-listed = aufgelistet mit { $columns }
read-across = über alle: { $figure ->
    [average] Durchschnitt
    [minimum] kleinster
    [maximum] größter
   *[sum] Summe
} von Wert { $n }
read-for-each = { $said } je { $column }
read-tally = wie viele das sind
read-unit-of = { $unit } von { $column }
read-unit-year = Jahr
read-unit-quarter = Quartal
read-unit-month = Monat
read-unit-week = Woche
read-unit-day = Tag
read-unit-weekday = Wochentag
read-unit-hour = Stunde
read-unit-clock = Uhrzeit
read-unit-fiscal-year = Geschäftsjahr
read-unit-fiscal-quarter = Quartal des Geschäftsjahrs
read-first-of-each = die ersten { $n } je { $by }
read-only-from = nur aus: { $which }
read-ordered = { $which } nach { $by }
read-order = nach { $by }
read-highest-first = { $by }, das Höchste zuerst
read-lowest-first = { $by }, das Niedrigste zuerst
read-top = die ersten { $n }
read-top-both = die ersten { $n } von beiden Enden
read-figure-number = Wert { $n }
read-of-difference = Unterschied der Werte { $one } und { $other }
read-of-ratio = Verhältnis der Werte { $one } und { $other }
read-of-percent = Werte { $one } und { $other } in Prozent
read-of-part = Wert { $one } als Teil von allen, in Prozent
read-of-running = Wert { $one } bis dahin
read-of-change = wie viel Wert { $one } mehr ist als davor
read-share-of = Anteil
read-share = { $what }, in Prozent
read-figure-count = gezählt
read-figure-distinct = verschiedene { $what }
read-figure-sum = Summe von { $what }
read-figure-average = Durchschnitt von { $what }
read-figure-minimum = kleinstes { $what }
read-figure-maximum = größtes { $what }
read-figure-median = mittleres { $what }
read-figure-measure = { $what }
read-lasted = { $unit ->
    [days] Tage
    [hours] Stunden
   *[minutes] Minuten
} von { $since } bis { $until }
read-less = { $what } weniger { $other }
read-times = { $what } mal { $other }
read-over = { $what } je { $other }
read-divided = { $what }, geteilt durch { $by }
read-how-many = wie viele
read-of-rows = { $what } von { $table }
read-is-equal = { $what } ist { $value }
read-is-in = { $what } ist eines von { $value }
read-is-less = { $what } unter { $value }
read-is-at-most = { $what } höchstens { $value }
read-is-more = { $what } über { $value }
read-is-at-least = { $what } mindestens { $value }
read-is-between = { $what } zwischen { $value }
read-is-like = { $what } wie { $value }
read-is-empty = { $what } ist leer
read-at-least = mindestens { $n }
read-at-most = höchstens { $n }
read-some = einige
read-has = { $count } von { $what }
read-different-of = { $column } von { $table }
read-has-different = { $count } verschiedene { $what }
read-of-the-same = { $what } im selben { $unit }
read-number-of = Zahl von { $what }
read-the = { $what }
read-empty = leer
read-dated = { $when } nach { $column }
read-the-average = der Durchschnitt
read-kept = behalten, wo { $what }
read-per = je { $what }

# Was aus einem zweiten Weg wurde.
second-held = Ihre Abfrage müsste freigegeben werden: { $reason }
second-settles = { $said }; damit erledigt: { $rules }
second-no-query = Daraus, wie es die Frage liest, lässt sich keine eigene Abfrage bauen: { $why }
second-no-draft = Ein zweiter Entwurf kam nicht zustande.
second-may-not = { $what ->
    [way] Die zweite Abfrage
   *[draft] Der zweite Entwurf
} darf nicht laufen: { $reason }
second-same-statement = Es ist dieselbe Abfrage
second-cut = Ein Ergebnis wurde abgeschnitten, so dass sich die beiden nicht vergleichen lassen.

# An answer taken away.
export-result = Ergebnis
export-grounds = Grundlagen
ground-question = Frage
ground-answer = Antwort
ground-worded = Formuliert von
ground-worded-every-figure = { $model }; jede Zahl wurde in den Zeilen gefunden
ground-remark = Bemerkung
ground-trust = Verlässlichkeit
trust-clear = klar
trust-caution = mit Vorsicht
ground-two-ways = auf zwei Wegen dasselbe
ground-caveat = Vorbehalt
ground-source = Quelle
ground-as-of = Stand
ground-data = Daten
ground-asked-by = Gefragt von
ground-read-back = Was die Abfrage tut
ground-measure = Vereinbarte Kennzahl { $name }, Fassung { $version }
ground-cut = Nicht vollständig
ground-cut-after = Das Ergebnis wurde nach { $n } Zeilen abgeschnitten.
ground-inquiry = Anfrage

# What a part could have meant instead.
instead-dated-by = nach { $what } von { $of }

# Was mit einer Quelle nicht stimmte.
error-unreadable = Die Datenbank ist nicht zu lesen: { $why }.
    .hint = Nachsehen, ob die Quelle da ist und von keinem anderen Programm gesperrt wird.
error-scan-under-way = Das erste Einlesen läuft noch ({ $done } von { $tables } Tabellen).
    .hint = Gleich noch einmal fragen.
error-scan-begun = Das erste Einlesen läuft noch (der Aufbau wird gelesen).
    .hint = Gleich noch einmal fragen.
no-room-of-ours = ganze Ergebnisse nehmen schon { $taken } MB ein, von { $most }, die sie dürfen
no-room-on-disk = auf der Platte sind nur { $free } MB frei
differs-not-where-meant = Beide stimmen überein, wo es anders gemeint ist: { $label }

# Warum eine Abfrage zurückgehalten oder abgelehnt wird.
held-always = Jede Abfrage an diese Quelle wird von Hand freigegeben.
held-table = Abfragen, die { $table } lesen, werden von Hand freigegeben.
held-role = Fragen von Personen mit der Rolle { $role } werden von Hand freigegeben.
held-whole = Ganze Ergebnisse werden übergeben, sobald jemand das freigegeben hat.
plan-gathers = Etwa { $n } Werte würden zu einem zusammengefügt; höchstens { $most } dürfen es sein.
plan-rows-refused = Der Plan würde etwa { $n } Zeilen lesen; höchstens { $most } sind erlaubt. { $cheaper }
plan-cost-refused = Der Plan kostet { $cost } nach dem Maß der Datenbank; höchstens { $most } sind erlaubt. { $cheaper }
plan-rows-held = Der Plan würde etwa { $n } Zeilen lesen; über { $most } gibt ihn jemand frei. { $cheaper }
plan-cost-held = Der Plan kostet { $cost } nach dem Maß der Datenbank; über { $most } gibt ihn jemand frei. { $cheaper }
plan-large-held = Der Plan ist groß: Jemand gibt ihn frei.
plan-large-refused = Der Plan liest mehr als erlaubt.
plan-cheaper-period = Enger fragen: ein kürzerer Zeitraum von { $column }, wofür es einen Index gibt.
plan-cheaper-condition = Enger fragen: eine Bedingung an { $column }, wofür es einen Index gibt.
plan-cheaper = Enger fragen: ein kürzerer Zeitraum oder Bedingungen an Spalten mit einem Index.
guard-rows-unproved = Es lässt sich nicht zeigen, dass nur erlaubte Zeilen von { $table } gelesen würden.
guard-row-rule-hint = Wer die Quelle betreut, kann Ihre Werte ergänzen oder die Regeln berichtigen.
guard-personal-count = { $column } ist persönlich: Man darf es zählen, sonst nichts.
guard-personal-count-hint = In der Auswahl COUNT({ $column }) oder COUNT(DISTINCT …) schreiben oder es weglassen.
guard-personal = { $column } ist persönlich und darf nicht verwendet werden.
guard-personal-hint = Es weglassen; Zeilen dürfen gezählt und nach Spalten gruppiert werden, die nicht persönlich sind.
guard-listing = Von { $tables } wird nur ein Teil der Zeilen aufgelistet; hier stünden alle in einem Wert.
guard-listing-hint = Zählen, oder nach etwas gruppieren, das viele Zeilen gemeinsam haben.
guard-function = Die Funktion { $name } ist nicht erlaubt.
guard-reads-only = Die Abfrage würde mehr tun als lesen ({ $what }).

# Was mit einem Sprachmodell nicht stimmte.
model-nobody = unter { $url } antwortet niemand{ $why }
model-silent = sein Server schwieg zu lange
model-hung-up = sein Server legte auf, oder was er sagte, ist kein HTTP
model-broke = die Verbindung zu ihm brach ab{ $why }
model-answered = sein Server antwortete { $status }
model-nonsense = seine Antwort ist nicht zu lesen: { $why }
model-stumbled = sein Server brach ab mit: { $why }
model-broke-off = seine Antwort brach mittendrin ab
model-away = Das Sprachmodell { $name } ist nicht zu erreichen: { $why }.
model-away-hint = Prüfen, ob unter { $url } ein Modellserver läuft und { $name } kennt.
model-call-broke = Der Aufruf des Sprachmodells brach ab; das Protokoll des Dienstes sagt, wie.
model-refused = Der Server des Sprachmodells { $name } antwortete { $status }: { $words }
model-all-away = Keines der Sprachmodelle ist zu gebrauchen: { $why }
model-resting = Das Sprachmodell { $name } wird { $seconds } s in Ruhe gelassen, weil es { $times } Mal nacheinander ausfiel.
model-late = Das Sprachmodell { $name } wurde in { $seconds } s nicht fertig.
    .hint = Noch einmal fragen oder limits.inquiry_s in den Regeln erhöhen.
model-too-much = Das Sprachmodell { $name } sandte { $what }.
    .hint = Seine Einstellungen prüfen oder ein anderes Modell nehmen.
model-key = Der Server des Sprachmodells { $name } kennt unseren Schlüssel nicht ({ $status }).
    .hint = models.{ $called }.key prüfen: worauf es zeigt und ob der Schlüssel noch gilt.
model-unknown = Ein Sprachmodell { $name } gibt es unter { $url } nicht.
    .hint = models.{ $called }.name oder base_url berichtigen; „harquel model check“ nennt, welche es dort gibt.
model-used-up = Was das Sprachmodell { $name } kosten darf, ist verbraucht, sagt sein Server.
    .hint = Beim Anbieter die Grenze erhöhen oder für diese Aufgabe ein anderes Modell nennen.
model-too-long = Die Eingabe ist länger, als das Sprachmodell { $name } liest.
    .hint = In den Regeln limits.prompt_tokens senken oder ein Modell nehmen, das mehr liest.
model-withheld = Der Server des Sprachmodells { $name } hielt seine Antwort zurück.
    .hint = Die Frage anders stellen; was es beantwortet, entscheiden die Regeln seines Anbieters.
model-tool = Das Sprachmodell { $name } rief ein Werkzeug auf, das ihm niemand gab.
    .hint = Noch einmal fragen oder ein anderes Modell nehmen.
model-no-room = Das Sprachmodell { $name } kam an die längste Antwort, ehe es etwas sagte.
    .hint = models.*.longest erhöhen oder effort senken.
model-no-time = Es war keine Zeit mehr, ein Sprachmodell zu fragen.
and-then = { $one } { $other }
model-crowded = Es warten zu viele auf das Sprachmodell { $name }.
    .hint = Noch einmal fragen oder ihm mehr Aufrufe zugleich geben (models.*.at_once).

# Was an einem Tag ausgegeben werden darf.
end-over-budget = { $said }
budget-all = Mit dieser Frage würde heute mehr ausgegeben, als sein darf: { $limit }.
budget-person = Mit dieser Frage würde heute für { $name } mehr ausgegeben, als sein darf: { $limit }.
budget-source = Mit dieser Frage würde heute für { $name } mehr ausgegeben, als sein darf: { $limit }.
budget-hint = Morgen (UTC) wieder fragen oder den Betrieb bitten, budgets in harquel.toml zu erhöhen.

# Welche Quelle gemeint ist.
source-because = { $source } gefragt: Dort bekannt sind { $words }.
which-source = Welche Quelle ist gemeint?
letter-rest = … und { $n } mehr.
letter-opens = Das Ganze, nach der Anmeldung:
letter-attached = Angehängt: { $name }.
letter-sent = { $name } hat Ihnen dies durch Harquel schicken lassen. Es wurde aus der Datenbank ermittelt; Antworten darauf liest niemand.
chat-clear = Zeichen: klar.
chat-caution = Mit Vorsicht: { $why }{ $more ->
    [0] {""}
    [one] {" "}(und ein weiterer Grund)
   *[other] {" "}(und { $more } weitere Gründe)
}
chat-more-rows = … und { $count ->
    [one] eine weitere Zeile
   *[other] { $n } weitere Zeilen
}: „Tabelle“.
chat-rows = { $shown } von { $n } Zeilen.
chat-choose = Eine Zahl sagen, oder anders fragen.
chat-held = Diese Abfrage ist angehalten, bis jemand mit dem Recht dazu sie ansieht. Was daraus wird, steht dort:
chat-no-answer = Es gibt keine Antwort.
chat-not-here = Was gefragt wurde, darf in diesem Chat nicht gesagt werden. Dort steht es:
chat-personal = Es ist beantwortet. Persönliches ist darin, das in Chats nicht gesagt wird. Dort steht es:
chat-alone = Das ist für die Person, die gefragt hat; ich habe es ihr allein geschickt.
chat-takes-long = Das dauert lange. Was daraus wird, steht dort:
chat-thinking = Ich überlege …
chat-stranger = Wer Sie sind, weiß ich hier noch nicht. In Harquel anmelden, dort einen Code für diesen Chat machen lassen, und mir direkt schreiben: link CODE
chat-link-here = Hier lesen andere mit, deshalb gilt dieser Code nicht mehr. Einen neuen machen lassen, und ihn mir direkt schreiben.
chat-code-wrong = Dieser Code gilt nicht: Er ist für einen anderen Chat, schon gebraucht, oder älter als eine Viertelstunde. In Harquel einen neuen machen lassen.
chat-code-rest = Zu viele Codes waren falsch. In einer Stunde noch einmal.
chat-linked = Von jetzt an kenne ich Sie als { $name }. Fragen Sie mich etwas, oder sagen Sie „Hilfe“. „unlink“ beendet das.
chat-unlinked = Ich kenne Sie hier nicht mehr.
chat-too-fast = Das war viel auf einmal. In einer Minute geht es weiter.
chat-too-long = Das ist zu lang: höchstens { $n } Zeichen.
chat-nothing = Ich lese nur Text. „Hilfe“ sagt mehr.
chat-no-source = Hier ist nichts, wonach Sie in diesem Chat fragen dürfen. Wer eine Quelle betreut, kann es zulassen (chat: in ihren Regeln).
chat-nothing-before = In diesem Faden ist keine Antwort, in die man hineinsehen könnte.
chat-nothing-under-way = Hier ist nichts unterwegs.
chat-under-way = Ich bin noch bei dem, was Sie vorher gefragt haben. „Stopp“ beendet es.
chat-stopped = Angehalten.
chat-no-such-choice = Eine Zahl von 1 bis { $n } sagen, oder anders fragen.
chat-one-word = Was ist mit „{ $word }“? Hier heißt nichts so. Als Frage stellen, zum Beispiel: { $starters }
chat-sources = Sie dürfen fragen nach: { $names }. „NAME: Frage“ fragt eine davon. Zum Beispiel:
chat-help = Fragen Sie mich etwas über { $names }; was in einem Faden gesagt wird, folgt dem, was dort steht. „Warum?“ sagt, was gezählt wurde, „Tabelle“ mehr Zeilen, „Stopp“ beendet, was unterwegs ist, „behalte das in …“ legt die Antwort in eine Mappe, „Quellen“ sagt, was gefragt werden kann, „unlink“ vergisst Sie. Zum Beispiel:
chat-button-why = Warum?
chat-button-table = Tabelle
when-not-understood = Das sagt nicht, wann. „jeden Montag um 8 Uhr“ schreiben, „werktags um 7:30“, „am 1. jedes Monats um 6 Uhr“, oder fünf Felder wie bei cron.
when-never = Das kommt nie.
when-too-often = Das ist öfter als alle { $minutes } Minuten.
watch-always = Wieder gefragt, wie verabredet ({ $when }).
watch-change = Es ist anders, als es zuletzt gesagt wurde.
watch-above = Es liegt jetzt über { $line }: { $figure }.
watch-below = Es liegt jetzt unter { $line }: { $figure }.
watch-by = Es hat sich um { $line } oder mehr bewegt, seit es zuletzt gesagt wurde: jetzt { $figure }, damals { $before }.
watch-missing = Es ist nichts da, wo etwas war.
watch-appears = Es sind Zeilen da, wo keine waren: { $rows }.
watch-doubt = Es wurde wieder gefragt, und was kam, ist zweifelhaft; deshalb steht hier keine Zahl. Bitte ansehen.
watch-moved = Es wurde wieder gefragt, aber die Tabellen sind anders gebaut, als sie waren; deshalb steht hier keine Zahl. Bitte ansehen; vom nächsten Mal an wird sie wieder gesagt.
watch-failed = Es ließ sich { $n } Mal hintereinander nicht beantworten. Bitte ansehen, warum.
watch-subject = { $title }
letter-watch = { $name } lässt diese Frage beobachten ({ $when }). Harquel fragt sie von selbst; Antworten auf diesen Brief liest niemand.

letter-casebook = Die Mappe liegt bei, als Seite für jeden Browser. Ihre Zahlen sind von der Zeit, die darin steht.
casebook-line = Von { $owner } · Fassung { $version } vom { $at }
casebook-gone = Die Antwort, die hier stand, gibt es nicht mehr.
casebook-again-under-way = Sie wird gerade neu gefragt; das ist die Antwort davor.
casebook-again-no-answer = Sie wurde neu gefragt und nicht beantwortet; das ist die Antwort davor.
cited-cut = die Antwort ist abgeschnitten, eine zweite Zeile wie diese kann fehlen
cited-unkept = ihre Zeilen werden nicht mehr aufbewahrt; neu fragen
cited-no-row = keine Zeile heißt so
cited-many-rows = es sind mehrere Zeilen; eine nennen: [=name: spalte | schlüssel]
cited-many-columns = sie hat mehrere Zahlen; eine nennen: [=name: spalte]
cited-no-column = sie hat keine solche Spalte
cited-no-answer = keine Antwort ist hier als { $name } festgehalten
cited-not-shown = die Antwort wird hier nicht gezeigt
shown-no-source = Sie ist aus einer Quelle, die man hier nicht hat.
shown-under-way = Daran wird noch gearbeitet.
shown-no-answer = Sie wurde nicht beantwortet.
shown-not-for-you = Mit den eigenen Rechten wäre es vielleicht nicht dieselbe Antwort. Selbst fragen.
chat-kept = Es steht jetzt in der Mappe „{ $title }“, als Antwort { $n }.
open-link-line = Gezeigt von { $name }, wie es am { $at } war. Diese Seite gilt bis { $until }.
open-link-none = Dieser Link zeigt nichts.
    .hint = Er kann zu Ende sein, oder nicht ganz abgeschrieben. Wer ihn gegeben hat, weiß mehr.
