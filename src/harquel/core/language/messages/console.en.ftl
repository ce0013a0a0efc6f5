# What the console says. Keys are grouped by where they stand; counts come first.

n-rows = { $n ->
    [one] { $n } row
   *[other] { $n } rows
}
n-tables = { $n ->
    [one] { $n } table
   *[other] { $n } tables
}
n-columns = { $n ->
    [one] { $n } column
   *[other] { $n } columns
}
n-examples = { $n ->
    [one] { $n } example
   *[other] { $n } examples
}
n-ways = { $n ->
    [one] { $n } way
   *[other] { $n } ways
}
n-tokens = { $n ->
    [one] { $n } token
   *[other] { $n } tokens
}
n-steps = { $n ->
    [one] { $n } step
   *[other] { $n } steps
}
n-attempts = { $n ->
    [one] { $n } attempt
   *[other] { $n } attempts
}
yes = yes
no = no

# The frame
skip = Skip to the page
pages = Pages
ask = Ask
earlier = Earlier
sources = Sources
inquiry = Inquiry
catalog = Catalog
examples = Examples
sign-in = Sign in
nothing-here = Nothing here
opening = Opening …
loading = Loading …
try-again = Try again
try-again-hint = Try again.
cancel = Cancel
save = Save
saving = Saving …
copy = Copy
copied = Copied
page-not-loaded = The page could not be loaded.
page-not-loaded-hint = Check your connection, then try again.
no-answer-of-service = The service does not answer.
no-answer-of-service-hint = Check that it runs and that you are connected, then try again.
service-answered = The service answered { $status }.
look-system = Look: as the system
look-light = Look: light
look-dark = Look: dark
chosen = chosen
sign-out = Sign out

# The ask field
your-question = Your question
ask-placeholder = Ask about the data …
asking = Asking …
source-of = Source: { $name }

# The first page
what-to-know = What do you want to know?
no-source = No source is connected.
no-source-hint = A steward connects one on the page Sources.
now-is = “now” is { $at }
first-read = The database is being read for the first time …
write-a-question = Write a question into the field above, as you would ask a colleague.
starters-tried = Questions to begin with are being tried …
asked-last = Asked last
nothing-yet = Nothing yet. The first answer is a click away.

# Signing in
claim = Questions to a database, with answers that can be checked.
session-ended = Your session has ended. Sign in again, and it goes on where you were.
your-token = Your token
token-hint = The demo prints one when it starts; otherwise an administrator makes it with “harquel token create”.
signing-in = Signing in …

# A path that leads nowhere
nothing-is-here = There is nothing here.
ask-or-earlier = { $ask } or look at { $earlier }.
ask-a-question = Ask a question
earlier-ones = earlier ones

# Earlier inquiries
earlier-inquiries = Earlier inquiries
nothing-asked = Nothing was asked yet. Write a question into the field above.
show-older = Show older ones

# How an inquiry stands
ending-queued = queued
ending-working = working
ending-held = held
ending-clear = clear
ending-caution = caution
ending-asked-back = asked back
ending-not-in-the-data = not in the data
ending-answered = answered
ending-refused = refused
ending-failed = failed
ending-cancelled = cancelled
ending-ended = ended

# The leaf
answer = Answer
result = Result
grounds = Grounds
trail = Trail
decided-by-line = Decided by the policy line { $line }.
stop = Stop
stopping = Stopping …
in-our-words-now = In our own words.
worded-by = Worded by { $model }; every figure was found in the rows.
as-model-says = As { $model } says it
in-our-words = In our own words
same-two-ways = came out the same in two ways
as-of = as of { $at }
asked-by = asked by { $person }
released-by = released by { $person }
turned-down-by = turned down by { $person }
follows-whole = all rows of
link-follows-whole = an earlier answer
follows-again = run again:
link-follows-again = the answer before
follows-instead = meant otherwise than
link-follows-instead = the one before
follows-reply = a reply to
link-follows-reply = what was asked back
run-again = Run it again
running = Running …
connection-lost = The connection was lost.
connection-lost-hint = It is being tried again; the inquiry goes on meanwhile.
underlined = Underlined: what the caveats are about.
without-limit = Without our row limit
with-limit = As it ran, with our row limit
model-on-draft = The model on its draft: { $text }
model-cannot = The model says that it cannot: { $text }
stage-accepted = Taken in …
stage-delivered = Closing the file …
stage-briefed = Choosing what the model needs to know …
stage-prompted = The model is writing a draft …
stage-replied = Reading the draft …
stage-ruled = Checked by the guard …
stage-found = Weighing what is doubtful …
stage-planned = Asking the database for its plan …
stage-ran = Reading the result …
stage-stumbled = Repairing the draft …
stage-second-way = Working it out a second way …
stage-writing = Writing all rows to a file …
stage-nothing-doubtful = Nothing doubtful about the draft …
stage-waiting = Waiting for its turn …
show-less = Show less
show-all-of-it = Show all of it

# Asked back, held
asking-small = asking …
none-of-these = None of these? Put the question in other words above.
waits = The statement waits for a release.
held-by-line = Held by the policy line { $line }.
a-word-why = A word why (goes on record, and to { $person })
release = Release
releasing = Releasing …
turn-down = Turn down
turning-down = Turning down …
somebody-else-decides = Somebody else with the right to release decides. You may leave this page; the decision shows here.
somebody-decides = Somebody with the right to release decides.

# Understood as
understood-as = Understood as
meant-otherwise = , meant otherwise?
ask-again-with = Ask again with, instead
for-words = { $text }, for “{ $words }”
assumed = (assumed)

# Keeping
kept-example = Kept as an example, { $state }.
see-all = See all
keeping = Keeping …
keep-example = Right? Keep it as an example
written-notes = Written into the notes, version { $number }.
see-them = See them
writing = Writing …
always-word = Always so? Note: “{ $word }” is { $code } in { $table }.{ $column }
always-dated = Always so? Note: rows of { $table } are dated by { $column }

# What the query does
what-it-does = What the query does
what-it-does-read = What the query does, read from it
in-sentences = In sentences
without-sentences = Without the sentences
agreed-measure = Agreed measure, version { $version }
owned-by = , owned by { $owner }

# The rows
rows = Rows
cut-by-rows = , cut by the limit on rows
cut-by-bytes = , cut by the limit on bytes
first-of = the first { $n } of { $rows }
rows-gone = The rows are kept no more. Run it again to see those of now.
no-rows = No rows came back.
show-more = Show { $n } more
copy-rows = Copy the rows
copied-rows = Copied, with tabs between the columns.
copied-cell = Copied: { $text }
cell-at = { $row }, { $column }: { $text }
empty-text = empty text
no-value = no value
not-copied = The browser does not let this page copy; select the rows instead.
sums = Together
hide-column = Hide { $name }
hidden-columns = { $n ->
    [one] { $n } column is hidden
   *[other] { $n } columns are hidden
}
show-them = Show them
copy-cell = Copy the cell
wider = Width of { $name }

# The chart
kind-line = a line
kind-bars = bars
kind-columns = columns
kind-parts = parts of a ring
kind-points = points
kind-grid = a grid
drawing = Drawing …
not-drawn = The picture could not be drawn here.
rows-beside = The rows beside it are all there.
drawn-as = Drawn as
of = of
by = by
at-most = at most
n-figures = { $n } figures
say-how = Say how to draw it
say-how-example = Or say: as a line, only the top 10
draw = Draw

# Taking it away
take-away = Take it away
send-on = Send it on
send-mail = By mail …
mail-to = To
mail-lets = The policy lets it go to { $names }.
mail-attach = With a file
mail-no-file = None
mail-send = Send
sending-waiting = Waits to be sent to { $destination }.
sending-again = { $destination } has not taken it yet ({ $why }); it is tried again by itself.
sending-arrived = Was taken at { $destination }.
sending-given-up = { $destination } did not take it: { $why }.
form-xlsx = A workbook
form-csv = Rows for a spreadsheet
form-html = A page by itself
form-md = Text for a ticket
form-json = For a program
form-png = The picture
form-svg = The picture, to be edited
all-rows = All rows, beyond these
rows-so-far = { $rows } so far, { $size } MB
no-rows-yet = No rows yet
csv-file = Rows for a spreadsheet, .csv
jsonl-file = For a program, .jsonl
rows-size = { $rows }, { $size } MB.
kept-until = Kept until { $at }; who takes it away goes on record.

# The second opinion
second-opinion = Second opinion
nothing-to-compare = gives nothing to compare with
agrees = agrees
comes-to-another = comes to another result
our-own-query = Our own query, from how { $model } reads the question,
our-own-query-changed = Our own query, from how the question before was read, changed as you say,
what-second-does = What the second query does, read from it

# The trail
choose-a-stop = Choose a stop to see what happened there.
after = after { $time }
verdict-line = Verdict: { $verdict } · policy line: { $line }
reply-as-it-came = The reply as it came
against-before = Against the draft before
station-asked = asked
station-briefing = briefing
station-model = model
station-reply = reply
station-guard = guard
station-review = review
station-dry-run = dry run
station-plan = plan
station-run = run
station-end = end
label-compared = compared
label-asked-back = asked back
duty-second-opinion = second opinion
duty-control = control
duty-word = word
duty-follow-up = what follows
change-removed = removed
change-added = added
verdict-run = run
verdict-refuse = refuse
verdict-hold = hold
event-accepted = The question was taken in.
event-briefed = The model is told of { $tables } and { $examples }, about { $n } tokens.
event-asked-back = The question can be read in { $ways }: { $readings }.
event-not-compared = The two could not be compared. { $said }
event-same = The second way comes to the same.
event-another = The second way comes to another result: { $said }.
event-prompted-control = { $model } is asked how it reads the question, without seeing the draft.
event-prompted-word = { $model } is asked to put the result into words.
event-prompted-second = { $model } is asked for a second draft, without seeing the first.
event-prompted-first = { $model } is asked for a draft.
event-prompted-again = { $model } is told what was wrong and asked again.
event-replied = The reply has { $tokens }.
event-doubtful = Something about the draft is doubtful.
event-not-doubtful = The draft says what was asked, as far as can be seen.
event-planned = The database would take { $steps }.
event-ran = { $rows } in { $time }{ $cut }.
event-delivered = { $rows } written to a file in { $time }{ $cut }.
event-taken-away = The file was taken away as { $form }.
event-sent-on = The answer is sent on to { $destination }.
event-arrived = The answer was taken at { $destination }{ $n ->
    [one] .
   *[other] , at try { $n }.
}
event-told-alone = It was told in the chat { $chat }, to whoever asked alone.
event-told-openly = It was told in the chat { $chat }, for everybody in { $place }.
event-not-arrived = The answer was not taken at { $destination }: { $why }.
event-file-expired = The file was deleted: its time was over.
event-file-unfinished = The file was deleted: it was never finished.
event-held = Held by the policy line { $line }: somebody releases it.
event-released = Released.
event-turned-down = Turned down.
event-cancel-asked = Somebody wants it to stop.
event-stumbled = The run did not come to an end: { $error }.
event-after-attempts = { $said } after { $attempts }
timing-queued = queued
timing-briefing = briefing
timing-model = model
timing-guard = guard
timing-review = review
timing-database = database
timing-answer = answer
timing-total = total
timing-own = own

# Sources
connect-a-source = Connect a source
nothing-connected = Nothing is connected yet. Connect a database with an account that may only read.
state-off = switched off
state-scanned = being scanned
state-away = out of reach
state-ready = ready
state-new = new
all-is-well = All is well.
works-with-marks = It works; see the marks.
does-not-work = It does not work yet.
version-scanned = version { $version }, scanned { $at }
drafts-by = drafts by { $model }
declared-in-file = declared in harquel.toml
declared-in-records = declared in the records
check = Check
checking = Checking …
scan = Scan
starting = Starting …
stop-scan = Stop the scan
switch-off = Switch off
switch-on = Switch on
remove = Remove
remove-it = Remove it
keep-it = Keep it
what-goes = Its notes and examples go; what was asked stays in the ledger.
reading-structure = Reading the structure …
scan-progress = { $done } of { $tables } tables · { $now }
scan-failed = The last scan failed. { $problem }
step-well = well
step-warning = warning
step-failed = failed
step-skipped = skipped

# Connecting
connect-hint = Give an account that may only read. The check afterwards says whether it could do more.
field-name = Name
field-name-hint = Small letters, digits, _ and -, beginning with a letter
field-engine = Engine
field-host = Host
field-port = Port
field-database = Database
field-user = User
field-password = Password
tls-prefer = where offered
tls-require = required
tls-off = off
field-file = File on the machine of the service
field-title = Title, for those who ask
connect = Connect
connecting = Connecting …

# The catalog
tables = Tables
search-catalog = Search tables, columns, notes
n-of = { $n } of { $all }
columns-described = { $n } of { $all } columns described
nothing-fits = Nothing fits the search.
no-tables = This database has no tables yet.
joins-with = { $table } joins with { $others }
nothing = nothing
and-more = and { $n } more
not-exposed = not exposed
kind-table = table
kind-view = view
about-rows = about { $rows }
scan-not-all = The scan could not use all of it.
what-it-holds = What it holds
what-it-holds-hint = One sentence that people and the model understand
withhold-table = Withhold the table
expose-table = Expose the table
key = key
personal-unread = personal: no value is read ahead
such-as = such as { $values }
from-to = { $low } to { $high }
does-not-add-up = does not add up
what-it-means = What it means
unit = Unit
also-called = Also called, with commas
codes = Codes, one a line as “X = cancelled”
adds-up = adds up
adds-up-hint = (not a price, a level, a counter)
exposed = exposed
personal = personal
proposed-by-scan = (proposed by the scan)

# Examples
examples-what = Those most like a question go into the prompt, as long as they still run.
examples-stale = { $n ->
    [one] { $n } no longer holds and is left out.
   *[other] { $n } no longer hold and are left out.
}
check-all = Check all
no-examples = There are none. Add one below, or keep a right answer with one click on its leaf.
nearly-same = nearly the same as another
example-checked = checked
example-stale = stale
example-new = new
example-off = off
add-one = Add one
question = Question
sql-that-answers = SQL that answers it
add = Add
checking-it = Checking it …
unsaved = What you typed here is not saved. Leave it?

# Language models.
models = Models
models-what = The language models of the configuration: what each does, and whether it is left alone because it failed several times in a row.
no-models = No language model is configured.
model-closed = in use
model-open = left alone
model-trying = tried again
duties = Duties
no-duties = It has no duty.
n-calls = { $n ->
    [one] 1 call since the start
   *[other] { $n } calls since the start
}
n-failed = { $n } failed
price-per-million = { $read } for a million tokens read, { $write } for a million written
no-price = no price is configured
left-alone-for = It is asked again in { $seconds } s, or at once by a check that succeeds.
check-is-paid = One short question, which is paid for.
replies = Replies
first-and-total = first piece after { $first }, all of it after { $total }
tokens = Tokens
read-and-written = { $read } read, { $written } written
not-counted = not counted by its server
per-second = { $n } a second
shape = Shape
shape-kept = kept: structured may be set
shape-not-kept = not kept: leave structured out
cost = Cost
server-has = Its server has { $names }.

# What models cost.
chats = Chats
chats-what = Ask where your team talks. Show there once who you are: whoever writes your code asks in your name from then on, about what the policies let be told there.
no-chats = This service is in no chat. Whoever runs it adds one to its configuration: [chats.NAME].
make-code = Make a code
write-there = Write this to Harquel in the chat, directly, where nobody reads along:
code-until = It counts once, until { $time }.
linked-there = Who is linked
asks-as-you = { $theirs } asks in your name.
asks-as = { $theirs } asks in the name of { $person }.
since-day = since { $day }
end-link = End it
watches = Watched questions
watches-what = Questions that are asked again by themselves, with your rights of each moment. What is doubtful is told without its figure.
no-watches = Nothing is watched yet. Under an answer, “Watch it” begins one.
watch-it = Watch it
watch-when = When
watch-when-example = every Monday at 8:00
watch-tell = What is told
watch-line = The line
watch-by-how-much = By how much (10, or 5 %)
watch-begin = Watch
watch-made = It is asked { $when } from now on ({ $zone }).
tell-always = each time
tell-change = what is otherwise
tell-above = a figure that goes above
tell-below = a figure that goes below
tell-by = a figure that has moved by
tell-missing = that nothing is there
tell-appears = that rows appear
watch-is-on = on
watch-is-paused = rests
watch-is-ended = over
watch-next = Next: { $time }
watch-last = Last: { $time }, { $came }
watch-runs = Earlier times
watch-now = Ask now
watch-pause = Let it rest
watch-resume = Go on
watch-end = End it
came-told = told
came-quiet = nothing to tell
came-doubt = doubtful, told without its figure
came-failed = not answered
came-not-sent = told to nobody
came-waiting = under way
caught-up = caught up
no-runs = It was not due yet.
usage = Usage
usage-what = What calls of language models came to in the last 30 days: your own, or with the right to audit those of all.
budgets = Today's budgets
today-of = today, { $whose }
all-together = all together
spent-of = { $spent } of { $limit }
added-up-by = Added up by
by-day = day
by-model = model
by-source = source
by-person = person
by-duty = duty
by-inquiry = inquiry
no-usage = No model was called in these days.
calls = calls
tokens-read = tokens read
tokens-written = tokens written
n-estimated = Of { $n } calls the tokens are worked out from characters: their server counted none.
so-many-tokens = { $n } tokens
days-from-to = { $since } to { $until }
any-source = any source
any-source-what = found by the words of the question
any-source-what-more = Any of { $n } sources: which one is meant is found by the words of the question, and asked back where that does not tell.
ask-on = Ask on from here
ask-on-placeholder = And last year? Only the cancelled ones. Per month instead.
ask-on-button = Ask on
you-said = You said: “{ $text }”
meant-otherwise-edit = Meant otherwise?
meant-so = The question as you meant it
ask-so = Ask it so
leave-it = Leave it
thread = Asked one after the other
thread-at = { $n } of { $of } asked one after the other
stage-follow-up = Understanding what follows the answer …
event-restated-reading = Taken with what was asked before: “{ $question }”
event-restated-model = A model says what is asked now: “{ $question }”
event-restated-alone = It stands by itself: “{ $question }”
event-prompted-follow-up = { $model } was asked what is meant, after what was asked before.
draft-again = Draft again with …
shipped-templates = The templates that ship
side-by-side = Side by side
both-agree = Both agree.
both-differ = They differ.
both-not-compared = Their rows cannot be laid beside each other: those of before are kept no more, or one of both has none.
answered-before = Answered before
drafted-again = Drafted again
template = template
drafts = drafts
ended = ended
follows-redraft = drafted again:
link-follows-redraft = the answer before
taken = taken
event-replied-reused = The reply to the same prompt was there already: no model was asked.
draft-reused = drafted as { $before }, no model was asked
draft-reused-before = before
stages = What it is at
stage-of-preparing = Preparing
stage-of-following = Understanding what follows
stage-of-reading = Reading the question
stage-of-drafting = Drafting
stage-of-checking = Checking
stage-of-running = Running
stage-of-another-way = Counting another way
stage-of-wording = Wording
stage-of-answering = Answering
casebooks = Casebooks
casebook = Casebook
casebooks-what = Answers that are kept, with text between them. Figures in the text are those of the answers: ask them again, and the text moves along.
no-casebooks = There is none yet. “Keep in a casebook” under an answer puts it into one, or begin one here.
casebook-new = A new one
casebook-make = Begin it
casebook-example = Winter timetable
n-answers = { $n ->
    [one] 1 answer
   *[other] { $n } answers
}
keep-in = Keep in a casebook
casebook-keep = Keep it there
casebook-kept = It is kept in
casebook-title = Title
casebook-text = Text, in Markdown
casebook-save = Save
casebook-refer = Answers
casebook-refer-how = A name puts the figure of its answer into the text: [=name: column | row] where there are several, [=name: #] for how many rows. Alone on its line it is the whole answer, [=name: chart] its picture.
casebook-drop = Let go of it
casebook-stay = Keep it after all
casebook-none-kept = None is kept yet.
casebook-version = version { $n }
casebook-for-all = everybody may read it
casebook-for = read by { $names }
casebook-for-nobody = for you alone
casebook-then = This is version { $n }, with the answers of then.
casebook-now = As it is now
casebook-again = Ask all again
casebook-anew = Ask anew
casebook-anew-what = Each question as it was understood, its times moved along: last month is another month then
casebook-write = Write
casebook-mail = Mail it
casebook-readers = Readers
casebook-readers-who = Who may read it: names with commas between them, * for everybody. Each sees what they would be answered themselves.
casebook-history = History
casebook-remove = Delete it
casebook-remove-sure = Delete “{ $title }” for good? Its answers stay.
casebook-mailed = It is on its way to { $to }.
casebook-was-made = made
casebook-was-written = written
casebook-was-kept = kept
casebook-was-dropped = let go
casebook-was-asked-again = asked again
casebook-was-restored = as before
casebook-restore = Make it so again
casebook-waiting = { $n ->
    [one] 1 answer is being asked again …
   *[other] { $n } answers are being asked again …
}
casebook-moved = Asked again { $at }: { $n } of { $of } have moved.
casebook-stayed = Asked again { $at }: nothing has moved.
casebook-missing = A figure is missing: { $said }.
casebook-typed = { $figures } stands in the text as typed: [={ $name }] would move along.
casebook-this-again = Ask this again
casebook-empty = Nothing stands here yet. “Write” begins the text, “Keep in a casebook” under an answer brings it here.
casebook-empty-yet = Nothing stands here yet.
casebook-aside = Kept, not in the text
kept-elsewhere = An answer of a source that you do not have
kept-stands-on = What it stands on
kept-open = Open it
ask-yourself = Ask it yourself
given-by = Asked by { $name }; you see it as far as you would be answered the same.
show-it = Show it to others
show-it-what = Makes a link for people without an account: they see it as it is now, without what it stands on. Whoever has the address sees it.
show-days = For how many days
show-note = For whom, as a note to yourself
show-make = Make the link
show-made = It holds until { $until }. This address is shown only now:
open-links = Open links
open-links-what = What people without an account see by a link of yours. It shows what it was made of as it was then, until its time is over or you end it.
no-open-links = There is none. “Show it to others” under an answer makes one, where its policy lets it.
link-until = until { $until }
link-was-until = made to hold until { $until }
link-opened = { $n ->
    [one] opened once, { $at }
   *[other] opened { $n } times, last { $at }
}
link-never-opened = not opened yet
link-end = End it now
link-over = over
visit-over = This visit is over.
visit-over-hint = Load the page around it again.
visit-working = Working on it, { $seconds } s …
visit-held = This waits until somebody with the right to looks at it.
visit-anew = Ask something else
visit-frame-only = This page is for a frame within a page of somebody’s own. Ask in the console instead.
