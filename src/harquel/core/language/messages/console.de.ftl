# Was die Konsole sagt. Schlüssel nach ihrem Ort; zuerst die Zahlen.

n-rows = { $n ->
    [one] { $n } Zeile
   *[other] { $n } Zeilen
}
n-tables = { $n ->
    [one] { $n } Tabelle
   *[other] { $n } Tabellen
}
n-columns = { $n ->
    [one] { $n } Spalte
   *[other] { $n } Spalten
}
n-examples = { $n ->
    [one] { $n } Beispiel
   *[other] { $n } Beispielen
}
n-ways = { $n ->
    [one] { $n } Weise
   *[other] { $n } Weisen
}
n-tokens = { $n ->
    [one] { $n } Token
   *[other] { $n } Token
}
n-steps = { $n ->
    [one] { $n } Schritt
   *[other] { $n } Schritte
}
n-attempts = { $n ->
    [one] { $n } Versuch
   *[other] { $n } Versuchen
}
yes = ja
no = nein

# Der Rahmen
skip = Zur Seite springen
pages = Seiten
ask = Fragen
earlier = Früher
sources = Quellen
inquiry = Anfrage
catalog = Katalog
examples = Beispiele
sign-in = Anmelden
nothing-here = Hier ist nichts
opening = Wird geöffnet …
loading = Lädt …
try-again = Noch einmal
try-again-hint = Versuchen Sie es noch einmal.
cancel = Abbrechen
save = Speichern
saving = Speichert …
copy = Kopieren
copied = Kopiert
page-not-loaded = Die Seite konnte nicht geladen werden.
page-not-loaded-hint = Prüfen Sie die Verbindung und versuchen Sie es noch einmal.
no-answer-of-service = Der Dienst antwortet nicht.
no-answer-of-service-hint = Prüfen Sie, ob er läuft und ob Sie verbunden sind, und versuchen Sie es noch einmal.
service-answered = Der Dienst hat mit { $status } geantwortet.
look-system = Aussehen: wie das System
look-light = Aussehen: hell
look-dark = Aussehen: dunkel
chosen = gewählt
sign-out = Abmelden

# Das Fragefeld
your-question = Ihre Frage
ask-placeholder = Fragen Sie nach den Daten …
asking = Fragt …
source-of = Quelle: { $name }

# Die erste Seite
what-to-know = Was möchten Sie wissen?
no-source = Es ist keine Quelle verbunden.
no-source-hint = Wer die Quellen betreut, verbindet eine auf der Seite Quellen.
now-is = „jetzt“ ist { $at }
first-read = Die Datenbank wird zum ersten Mal gelesen …
write-a-question = Schreiben Sie oben eine Frage hin, wie Sie sie einer Kollegin stellen würden.
starters-tried = Fragen für den Anfang werden gerade ausprobiert …
asked-last = Zuletzt gefragt
nothing-yet = Noch nichts. Die erste Antwort ist einen Klick entfernt.

# Anmelden
claim = Fragen an eine Datenbank, mit Antworten, die sich prüfen lassen.
session-ended = Ihre Sitzung ist zu Ende. Melden Sie sich wieder an, dann geht es weiter, wo Sie waren.
your-token = Ihr Zugangsschlüssel
token-hint = Die Demo zeigt einen, wenn sie startet; sonst macht ihn jemand von der Verwaltung mit „harquel token create“.
signing-in = Meldet an …

# Ein Weg ins Nichts
nothing-is-here = Hier ist nichts.
ask-or-earlier = { $ask } oder { $earlier } ansehen.
ask-a-question = Eine Frage stellen
earlier-ones = frühere

# Frühere Anfragen
earlier-inquiries = Frühere Anfragen
nothing-asked = Noch wurde nichts gefragt. Schreiben Sie oben eine Frage hin.
show-older = Ältere zeigen

# Wie es um eine Anfrage steht
ending-queued = wartet
ending-working = in Arbeit
ending-held = zurückgehalten
ending-clear = klar
ending-caution = mit Vorsicht
ending-asked-back = Rückfrage
ending-not-in-the-data = nicht in den Daten
ending-answered = beantwortet
ending-refused = abgelehnt
ending-failed = gescheitert
ending-cancelled = abgebrochen
ending-ended = beendet

# Das Blatt
answer = Antwort
result = Ergebnis
grounds = Begründung
trail = Verlauf
decided-by-line = Entschieden durch die Zeile { $line } der Regeln.
stop = Abbrechen
stopping = Hält an …
in-our-words-now = In unseren eigenen Worten.
worded-by = Formuliert von { $model }; jede Zahl wurde in den Zeilen gefunden.
as-model-says = Wie { $model } es sagt
in-our-words = In unseren eigenen Worten
same-two-ways = auf zwei Wegen dasselbe
as-of = Stand { $at }
asked-by = gefragt von { $person }
released-by = freigegeben von { $person }
turned-down-by = verweigert von { $person }
follows-whole = alle Zeilen zu
link-follows-whole = einer früheren Antwort
follows-again = noch einmal:
link-follows-again = die Antwort davor
follows-instead = anders gemeint als
link-follows-instead = die davor
follows-reply = eine Antwort auf
link-follows-reply = die Rückfrage
run-again = Noch einmal ausführen
running = Läuft …
connection-lost = Die Verbindung ist abgerissen.
connection-lost-hint = Sie wird wieder aufgebaut; die Anfrage läuft inzwischen weiter.
underlined = Unterstrichen: worum es in den Hinweisen geht.
without-limit = Ohne unsere Zeilengrenze
with-limit = Wie es lief, mit unserer Zeilengrenze
model-on-draft = Das Modell zu seinem Entwurf: { $text }
model-cannot = Das Modell sagt, dass es nicht geht: { $text }
stage-accepted = Angenommen …
stage-delivered = Die Datei wird geschlossen …
stage-briefed = Es wird ausgesucht, was das Modell wissen muss …
stage-prompted = Das Modell schreibt einen Entwurf …
stage-replied = Der Entwurf wird gelesen …
stage-ruled = Von der Wache geprüft …
stage-found = Es wird abgewogen, was zweifelhaft ist …
stage-planned = Die Datenbank wird nach ihrem Plan gefragt …
stage-ran = Das Ergebnis wird gelesen …
stage-stumbled = Der Entwurf wird ausgebessert …
stage-second-way = Es wird auf einem zweiten Weg gerechnet …
stage-writing = Alle Zeilen werden in eine Datei geschrieben …
stage-nothing-doubtful = Am Entwurf ist nichts zweifelhaft …
stage-waiting = Wartet, bis sie an der Reihe ist …
show-less = Weniger zeigen
show-all-of-it = Alles zeigen

# Rückfragen, zurückgehaltene
asking-small = fragt …
none-of-these = Nichts davon? Stellen Sie die Frage oben mit anderen Worten.
waits = Die Abfrage wartet auf eine Freigabe.
held-by-line = Zurückgehalten durch die Zeile { $line } der Regeln.
a-word-why = Ein Wort dazu (steht im Protokoll, und { $person } liest es)
release = Freigeben
releasing = Wird freigegeben …
turn-down = Verweigern
turning-down = Wird verweigert …
somebody-else-decides = Jemand anderes mit dem Recht zur Freigabe entscheidet. Sie können diese Seite verlassen; die Entscheidung erscheint hier.
somebody-decides = Jemand mit dem Recht zur Freigabe entscheidet.

# Verstanden als
understood-as = Verstanden als
meant-otherwise = , anders gemeint?
ask-again-with = Stattdessen noch einmal fragen mit
for-words = { $text }, für „{ $words }“
assumed = (angenommen)

# Behalten
kept-example = Als Beispiel behalten, { $state }.
see-all = Alle ansehen
keeping = Wird behalten …
keep-example = Richtig? Als Beispiel behalten
written-notes = In die Notizen geschrieben, Fassung { $number }.
see-them = Ansehen
writing = Schreibt …
always-word = Immer so? Notieren: „{ $word }“ ist { $code } in { $table }.{ $column }
always-dated = Immer so? Notieren: Zeilen von { $table } haben ihr Datum von { $column }

# Was die Abfrage tut
what-it-does = Was die Abfrage tut
what-it-does-read = Was die Abfrage tut, aus ihr gelesen
in-sentences = In Sätzen
without-sentences = Ohne die Sätze
agreed-measure = Vereinbarte Kennzahl, Fassung { $version }
owned-by = , verantwortet von { $owner }

# Die Zeilen
rows = Zeilen
cut-by-rows = , abgeschnitten bei der Grenze für Zeilen
cut-by-bytes = , abgeschnitten bei der Grenze für Bytes
first-of = die ersten { $n } von { $rows }
rows-gone = Die Zeilen sind nicht mehr aufbewahrt. Führen Sie es noch einmal aus, um die heutigen zu sehen.
no-rows = Es kamen keine Zeilen.
show-more = { $n } weitere zeigen
copy-rows = Zeilen kopieren
copied-rows = Kopiert, mit Tabulatoren zwischen den Spalten.
copied-cell = Kopiert: { $text }
cell-at = { $row }, { $column }: { $text }
empty-text = leerer Text
no-value = kein Wert
not-copied = Der Browser lässt diese Seite nicht kopieren; markieren Sie die Zeilen stattdessen.
sums = Zusammen
hide-column = { $name } ausblenden
hidden-columns = { $n ->
    [one] { $n } Spalte ist ausgeblendet
   *[other] { $n } Spalten sind ausgeblendet
}
show-them = Zeigen
copy-cell = Zelle kopieren
wider = Breite von { $name }

# Das Bild
kind-line = eine Linie
kind-bars = Balken
kind-columns = Säulen
kind-parts = Teile eines Rings
kind-points = Punkte
kind-grid = ein Raster
drawing = Zeichnet …
not-drawn = Das Bild konnte hier nicht gezeichnet werden.
rows-beside = Die Zeilen daneben sind alle da.
drawn-as = Gezeichnet als
of = von
by = nach
at-most = höchstens
n-figures = { $n } Werte
say-how = Sagen, wie es gezeichnet werden soll
say-how-example = Oder sagen: als Linie, nur die ersten 10
draw = Zeichnen

# Mitnehmen
take-away = Mitnehmen
send-on = Weiterschicken
send-mail = Mit der Mail …
mail-to = An
mail-lets = Die Regeln lassen sie gehen an { $names }.
mail-attach = Mit einer Datei
mail-no-file = Keine
mail-send = Schicken
sending-waiting = Wartet darauf, an { $destination } geschickt zu werden.
sending-again = { $destination } hat sie noch nicht angenommen ({ $why }); es wird von selbst wieder versucht.
sending-arrived = Wurde bei { $destination } angenommen.
sending-given-up = { $destination } hat sie nicht angenommen: { $why }.
form-xlsx = Eine Arbeitsmappe
form-csv = Zeilen für eine Tabelle
form-html = Eine Seite für sich
form-md = Text für ein Ticket
form-json = Für ein Programm
form-png = Das Bild
form-svg = Das Bild, zum Bearbeiten
all-rows = Alle Zeilen, über diese hinaus
rows-so-far = { $rows } bisher, { $size } MB
no-rows-yet = Noch keine Zeilen
csv-file = Zeilen für eine Tabelle, .csv
jsonl-file = Für ein Programm, .jsonl
rows-size = { $rows }, { $size } MB.
kept-until = Aufbewahrt bis { $at }; wer sie mitnimmt, steht im Protokoll.

# Die zweite Meinung
second-opinion = Zweite Meinung
nothing-to-compare = gibt nichts zum Vergleichen
agrees = stimmt überein
comes-to-another = kommt zu einem anderen Ergebnis
our-own-query = Unsere eigene Abfrage, danach wie { $model } die Frage liest,
our-own-query-changed = Unsere eigene Abfrage, danach wie die Frage davor gelesen wurde, geändert wie gesagt,
what-second-does = Was die zweite Abfrage tut, aus ihr gelesen

# Der Verlauf
choose-a-stop = Wählen Sie eine Station, um zu sehen, was dort geschah.
after = nach { $time }
verdict-line = Urteil: { $verdict } · Zeile der Regeln: { $line }
reply-as-it-came = Die Antwort, wie sie kam
against-before = Gegenüber dem Entwurf davor
station-asked = gefragt
station-briefing = Vorlage
station-model = Modell
station-reply = Antwort
station-guard = Wache
station-review = Durchsicht
station-dry-run = Probe
station-plan = Plan
station-run = Lauf
station-end = Ende
label-compared = verglichen
label-asked-back = Rückfrage
duty-second-opinion = zweite Meinung
duty-control = Gegenrechnung
duty-word = Wortlaut
duty-follow-up = Anschluss
change-removed = entfernt
change-added = hinzugefügt
verdict-run = läuft
verdict-refuse = abgelehnt
verdict-hold = zurückgehalten
event-accepted = Die Frage wurde angenommen.
event-briefed = Das Modell erfährt von { $tables } und { $examples }, etwa { $n } Token.
event-asked-back = Die Frage lässt sich auf { $ways } lesen: { $readings }.
event-not-compared = Die beiden ließen sich nicht vergleichen. { $said }
event-same = Der zweite Weg kommt zum selben.
event-another = Der zweite Weg kommt zu einem anderen Ergebnis: { $said }.
event-prompted-control = { $model } wird gefragt, wie es die Frage liest, ohne den Entwurf zu sehen.
event-prompted-word = { $model } wird gebeten, das Ergebnis in Worte zu fassen.
event-prompted-second = { $model } wird um einen zweiten Entwurf gebeten, ohne den ersten zu sehen.
event-prompted-first = { $model } wird um einen Entwurf gebeten.
event-prompted-again = { $model } erfährt, was falsch war, und wird noch einmal gefragt.
event-replied = Die Antwort hat { $tokens }.
event-doubtful = Etwas an dem Entwurf ist zweifelhaft.
event-not-doubtful = Der Entwurf sagt, was gefragt wurde, soweit es zu sehen ist.
event-planned = Die Datenbank bräuchte { $steps }.
event-ran = { $rows } in { $time }{ $cut }.
event-delivered = { $rows } in { $time } in eine Datei geschrieben{ $cut }.
event-taken-away = Die Datei wurde als { $form } mitgenommen.
event-sent-on = Die Antwort wird an { $destination } weitergeschickt.
event-arrived = Die Antwort wurde bei { $destination } angenommen{ $n ->
    [one] .
   *[other] , beim Versuch { $n }.
}
event-told-alone = Es wurde im Chat { $chat } gesagt, nur der Person, die gefragt hat.
event-told-openly = Es wurde im Chat { $chat } gesagt, für alle in { $place }.
event-not-arrived = Die Antwort wurde bei { $destination } nicht angenommen: { $why }.
event-file-expired = Die Datei wurde gelöscht: ihre Zeit war um.
event-file-unfinished = Die Datei wurde gelöscht: sie wurde nie fertig.
event-held = Zurückgehalten durch die Zeile { $line } der Regeln: jemand gibt es frei.
event-released = Freigegeben.
event-turned-down = Verweigert.
event-cancel-asked = Jemand möchte, dass es anhält.
event-stumbled = Der Lauf kam nicht zum Ende: { $error }.
event-after-attempts = { $said } nach { $attempts }
timing-queued = gewartet
timing-briefing = Vorlage
timing-model = Modell
timing-guard = Wache
timing-review = Durchsicht
timing-database = Datenbank
timing-answer = Antwort
timing-total = insgesamt
timing-own = davon wir

# Quellen
connect-a-source = Quelle verbinden
nothing-connected = Noch ist nichts verbunden. Verbinden Sie eine Datenbank mit einem Konto, das nur lesen darf.
state-off = ausgeschaltet
state-scanned = wird gelesen
state-away = nicht erreichbar
state-ready = bereit
state-new = neu
all-is-well = Alles in Ordnung.
works-with-marks = Es geht; beachten Sie die Zeichen.
does-not-work = Es geht noch nicht.
version-scanned = Fassung { $version }, gelesen { $at }
drafts-by = Entwürfe von { $model }
declared-in-file = eingetragen in harquel.toml
declared-in-records = eingetragen in den Aufzeichnungen
check = Prüfen
checking = Prüft …
scan = Lesen
starting = Beginnt …
stop-scan = Lesen anhalten
switch-off = Ausschalten
switch-on = Einschalten
remove = Entfernen
remove-it = Wirklich entfernen
keep-it = Behalten
what-goes = Notizen und Beispiele gehen verloren; was gefragt wurde, bleibt im Protokoll.
reading-structure = Der Aufbau wird gelesen …
scan-progress = { $done } von { $tables } Tabellen · { $now }
scan-failed = Das letzte Lesen ist gescheitert. { $problem }
step-well = gut
step-warning = Warnung
step-failed = gescheitert
step-skipped = ausgelassen

# Verbinden
connect-hint = Geben Sie ein Konto an, das nur lesen darf. Die Prüfung danach sagt, ob es mehr könnte.
field-name = Name
field-name-hint = Kleine Buchstaben, Ziffern, _ und -, mit einem Buchstaben vorn
field-engine = Datenbanksystem
field-host = Rechner
field-port = Port
field-database = Datenbank
field-user = Konto
field-password = Kennwort
tls-prefer = wo angeboten
tls-require = verlangt
tls-off = aus
field-file = Datei auf dem Rechner des Dienstes
field-title = Titel, für alle, die fragen
connect = Verbinden
connecting = Verbindet …

# Der Katalog
tables = Tabellen
search-catalog = Tabellen, Spalten, Notizen durchsuchen
n-of = { $n } von { $all }
columns-described = { $n } von { $all } Spalten beschrieben
nothing-fits = Nichts passt zur Suche.
no-tables = Diese Datenbank hat noch keine Tabellen.
joins-with = { $table } ist verbunden mit { $others }
nothing = nichts
and-more = und { $n } weitere
not-exposed = nicht freigegeben
kind-table = Tabelle
kind-view = Sicht
about-rows = etwa { $rows }
scan-not-all = Nicht alles davon konnte gelesen werden.
what-it-holds = Was darin steht
what-it-holds-hint = Ein Satz, den Menschen und das Modell verstehen
withhold-table = Tabelle zurückhalten
expose-table = Tabelle freigeben
key = Schlüssel
personal-unread = persönlich: kein Wert wird vorab gelesen
such-as = etwa { $values }
from-to = { $low } bis { $high }
does-not-add-up = nicht summierbar
what-it-means = Was es bedeutet
unit = Einheit
also-called = Auch genannt, mit Kommas
codes = Kürzel, eines je Zeile wie „X = ausgefallen“
adds-up = summierbar
adds-up-hint = (kein Preis, Pegel oder Zählerstand)
exposed = freigegeben
personal = persönlich
proposed-by-scan = (beim Lesen vorgeschlagen)

# Beispiele
examples-what = Die einer Frage ähnlichsten gehen in die Vorlage, solange sie noch laufen.
examples-stale = { $n ->
    [one] { $n } gilt nicht mehr und bleibt draußen.
   *[other] { $n } gelten nicht mehr und bleiben draußen.
}
check-all = Alle prüfen
no-examples = Es gibt keine. Fügen Sie unten eines hinzu, oder behalten Sie eine richtige Antwort mit einem Klick auf ihrem Blatt.
nearly-same = fast wie ein anderes
example-checked = geprüft
example-stale = überholt
example-new = neu
example-off = aus
add-one = Eines hinzufügen
question = Frage
sql-that-answers = SQL, das sie beantwortet
add = Hinzufügen
checking-it = Wird geprüft …
unsaved = Was Sie hier geschrieben haben, ist nicht gespeichert. Trotzdem weggehen?

# Sprachmodelle.
models = Modelle
models-what = Die Sprachmodelle der Konfiguration: was jedes tut, und ob es in Ruhe gelassen wird, weil es mehrmals nacheinander ausfiel.
no-models = Es ist kein Sprachmodell eingerichtet.
model-closed = in Gebrauch
model-open = in Ruhe gelassen
model-trying = wird wieder versucht
duties = Aufgaben
no-duties = Es hat keine Aufgabe.
n-calls = { $n ->
    [one] 1 Aufruf seit dem Start
   *[other] { $n } Aufrufe seit dem Start
}
n-failed = { $n } gescheitert
price-per-million = { $read } für eine Million gelesene Token, { $write } für eine Million geschriebene
no-price = kein Preis eingetragen
left-alone-for = In { $seconds } s wird es wieder gefragt, oder sofort nach einer Prüfung, die gelingt.
check-is-paid = Eine kurze Frage, die bezahlt wird.
replies = Antwortet
first-and-total = erstes Stück nach { $first }, alles nach { $total }
tokens = Token
read-and-written = { $read } gelesen, { $written } geschrieben
not-counted = zählt sein Server nicht
per-second = { $n } in der Sekunde
shape = Form
shape-kept = eingehalten: structured kann gesetzt werden
shape-not-kept = nicht eingehalten: structured weglassen
cost = Kosten
server-has = Sein Server hat { $names }.

# Was Modelle kosten.
chats = Chats
chats-what = Fragen, wo das Team miteinander spricht. Einmal zeigen, wer man dort ist: Wer den eigenen Code schreibt, fragt von da an im eigenen Namen, nach dem, was die Regeln dort zu sagen erlauben.
no-chats = Dieser Dienst ist in keinem Chat. Wer ihn betreibt, trägt einen in seine Konfiguration ein: [chats.NAME].
make-code = Einen Code machen
write-there = Das im Chat an Harquel schreiben, direkt, wo niemand mitliest:
code-until = Er gilt einmal, bis { $time }.
linked-there = Wer verbunden ist
asks-as-you = { $theirs } fragt im eigenen Namen.
asks-as = { $theirs } fragt im Namen von { $person }.
since-day = seit { $day }
end-link = Beenden
watches = Beobachtete Fragen
watches-what = Fragen, die von selbst wieder gestellt werden, mit den eigenen Rechten des jeweiligen Augenblicks. Was zweifelhaft ist, wird ohne Zahl gesagt.
no-watches = Noch wird nichts beobachtet. Unter einer Antwort beginnt es mit „Beobachten“.
watch-it = Beobachten
watch-when = Wann
watch-when-example = jeden Montag um 8 Uhr
watch-tell = Was gesagt wird
watch-line = Die Grenze
watch-by-how-much = Um wie viel (10, oder 5 %)
watch-begin = Beobachten
watch-made = Von jetzt an wird gefragt: { $when } ({ $zone }).
tell-always = jedes Mal
tell-change = was anders ist
tell-above = eine Zahl, die steigt über
tell-below = eine Zahl, die fällt unter
tell-by = eine Zahl, die sich bewegt um
tell-missing = dass nichts da ist
tell-appears = dass Zeilen da sind
watch-is-on = an
watch-is-paused = ruht
watch-is-ended = zu Ende
watch-next = Als Nächstes: { $time }
watch-last = Zuletzt: { $time }, { $came }
watch-runs = Frühere Male
watch-now = Jetzt fragen
watch-pause = Ruhen lassen
watch-resume = Weiter
watch-end = Beenden
came-told = gesagt
came-quiet = nichts zu sagen
came-doubt = zweifelhaft, ohne Zahl gesagt
came-failed = nicht beantwortet
came-not-sent = niemandem gesagt
came-waiting = unterwegs
caught-up = nachgeholt
no-runs = Es war noch nicht so weit.
usage = Verbrauch
usage-what = Was Aufrufe von Sprachmodellen in den letzten 30 Tagen ergaben: die eigenen, oder mit dem Recht zur Prüfung die von allen.
budgets = Heutige Grenzen
today-of = heute, { $whose }
all-together = alles zusammen
spent-of = { $spent } von { $limit }
added-up-by = Zusammengezählt nach
by-day = Tag
by-model = Modell
by-source = Quelle
by-person = Person
by-duty = Aufgabe
by-inquiry = Anfrage
no-usage = In diesen Tagen wurde kein Modell aufgerufen.
calls = Aufrufe
tokens-read = Token gelesen
tokens-written = Token geschrieben
n-estimated = Bei { $n } Aufrufen sind die Token aus Zeichen errechnet: Ihr Server zählte keine.
so-many-tokens = { $n } Token
days-from-to = { $since } bis { $until }
any-source = irgendeine Quelle
any-source-what = an den Wörtern der Frage erkannt
any-source-what-more = Irgendeine von { $n } Quellen: Welche gemeint ist, sagen die Wörter der Frage; wo sie es nicht tun, wird zurückgefragt.
ask-on = Von hier weiter fragen
ask-on-placeholder = Und letztes Jahr? Nur die ausgefallenen. Lieber je Monat.
ask-on-button = Weiter fragen
you-said = Sie sagten: „{ $text }“
meant-otherwise-edit = Anders gemeint?
meant-so = Die Frage, wie sie gemeint war
ask-so = So fragen
leave-it = So lassen
thread = Nacheinander gefragt
thread-at = { $n } von { $of } nacheinander gefragten
stage-follow-up = Es wird verstanden, was an die Antwort anschließt …
event-restated-reading = Zusammen mit der Frage davor verstanden: „{ $question }“
event-restated-model = Ein Modell sagt, was nun gefragt ist: „{ $question }“
event-restated-alone = Es steht für sich: „{ $question }“
event-prompted-follow-up = { $model } wurde gefragt, was nach der Frage davor gemeint ist.
draft-again = Noch einmal entwerfen mit …
shipped-templates = Die mitgelieferten Vorlagen
side-by-side = Nebeneinander
both-agree = Beide stimmen überein.
both-differ = Sie unterscheiden sich.
both-not-compared = Ihre Zeilen lassen sich nicht nebeneinanderlegen: Die von davor sind nicht mehr da, oder eine von beiden hat keine.
answered-before = Davor beantwortet
drafted-again = Noch einmal entworfen
template = Vorlage
drafts = Entwürfe
ended = Ende
follows-redraft = noch einmal entworfen:
link-follows-redraft = die Antwort davor
taken = gebraucht
event-replied-reused = Die Antwort auf denselben Prompt war schon da: Kein Modell wurde gefragt.
draft-reused = entworfen wie { $before }, kein Modell wurde gefragt
draft-reused-before = davor
stages = Wobei es ist
stage-of-preparing = Vorbereiten
stage-of-following = Anschluss verstehen
stage-of-reading = Frage lesen
stage-of-drafting = Entwerfen
stage-of-checking = Prüfen
stage-of-running = Ausführen
stage-of-another-way = Anders zählen
stage-of-wording = In Worte fassen
stage-of-answering = Antworten
casebooks = Mappen
casebook = Mappe
casebooks-what = Festgehaltene Antworten mit Text dazwischen. Zahlen im Text sind die der Antworten: neu fragen, und der Text geht mit.
no-casebooks = Noch ist keine da. „In eine Mappe“ unter einer Antwort legt sie in eine, oder hier eine anfangen.
casebook-new = Eine neue
casebook-make = Anfangen
casebook-example = Winterfahrplan
n-answers = { $n ->
    [one] 1 Antwort
   *[other] { $n } Antworten
}
keep-in = In eine Mappe
casebook-keep = Dort festhalten
casebook-kept = Sie steht jetzt in
casebook-title = Titel
casebook-text = Text, in Markdown
casebook-save = Speichern
casebook-refer = Antworten
casebook-refer-how = Ein Name setzt die Zahl seiner Antwort in den Text: [=name: spalte | zeile], wo es mehrere sind, [=name: #] für die Zahl der Zeilen. Allein auf seiner Zeile ist er die ganze Antwort, [=name: chart] ihr Bild.
casebook-drop = Herausnehmen
casebook-stay = Doch behalten
casebook-none-kept = Noch ist keine festgehalten.
casebook-version = Fassung { $n }
casebook-for-all = alle dürfen sie lesen
casebook-for = gelesen von { $names }
casebook-for-nobody = nur für einen selbst
casebook-then = Das ist Fassung { $n }, mit den Antworten von damals.
casebook-now = Wie sie jetzt ist
casebook-again = Alle neu fragen
casebook-anew = Mit neuen Zeiten fragen
casebook-anew-what = Jede Frage, wie sie verstanden wurde, mit mitgehenden Zeiten: Der letzte Monat ist dann ein anderer
casebook-write = Schreiben
casebook-mail = Mailen
casebook-readers = Leser
casebook-readers-who = Wer sie lesen darf: Namen, durch Komma getrennt, * für alle. Jeder sieht, was ihm selbst geantwortet würde.
casebook-history = Verlauf
casebook-remove = Löschen
casebook-remove-sure = „{ $title }“ endgültig löschen? Die Antworten bleiben.
casebook-mailed = Sie ist unterwegs an { $to }.
casebook-was-made = angelegt
casebook-was-written = geschrieben
casebook-was-kept = festgehalten
casebook-was-dropped = herausgenommen
casebook-was-asked-again = neu gefragt
casebook-was-restored = wie vorher
casebook-restore = Wieder so machen
casebook-waiting = { $n ->
    [one] 1 Antwort wird neu gefragt …
   *[other] { $n } Antworten werden neu gefragt …
}
casebook-moved = Neu gefragt { $at }: { $n } von { $of } sind anders.
casebook-stayed = Neu gefragt { $at }: Nichts ist anders.
casebook-missing = Eine Zahl fehlt: { $said }.
casebook-typed = { $figures } steht getippt im Text: [={ $name }] ginge mit.
casebook-this-again = Diese neu fragen
casebook-empty = Hier steht noch nichts. „Schreiben“ fängt den Text an, „In eine Mappe“ unter einer Antwort bringt sie her.
casebook-empty-yet = Hier steht noch nichts.
casebook-aside = Festgehalten, nicht im Text
kept-elsewhere = Eine Antwort aus einer Quelle, die man hier nicht hat
kept-stands-on = Worauf sie steht
kept-open = Öffnen
ask-yourself = Selbst fragen
given-by = Gefragt von { $name }; zu sehen, soweit man selbst dieselbe Antwort bekäme.
show-it = Anderen zeigen
show-it-what = Macht einen Link für Leute ohne Konto: Sie sehen es, wie es jetzt ist, ohne das, worauf es steht. Wer die Adresse hat, sieht es.
show-days = Für wie viele Tage
show-note = Für wen, als Notiz für einen selbst
show-make = Link machen
show-made = Er gilt bis { $until }. Diese Adresse wird nur jetzt gezeigt:
open-links = Offene Links
open-links-what = Was Leute ohne Konto durch einen eigenen Link sehen. Er zeigt, woraus er gemacht wurde, wie es damals war, bis seine Zeit um ist oder man ihn beendet.
no-open-links = Es gibt keinen. „Anderen zeigen“ unter einer Antwort macht einen, wo ihre Richtlinie es zulässt.
link-until = bis { $until }
link-was-until = gemacht bis { $until }
link-opened = { $n ->
    [one] einmal geöffnet, { $at }
   *[other] { $n } Mal geöffnet, zuletzt { $at }
}
link-never-opened = noch nicht geöffnet
link-end = Jetzt beenden
link-over = zu Ende
visit-over = Dieser Besuch ist zu Ende.
visit-over-hint = Die Seite darum neu laden.
visit-working = In Arbeit, { $seconds } s …
visit-held = Das wartet, bis jemand, der es darf, danach sieht.
visit-anew = Etwas anderes fragen
visit-frame-only = Diese Seite ist für einen Rahmen in einer anderen Seite gemacht. In der Konsole lässt sich fragen.
