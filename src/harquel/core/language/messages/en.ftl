# The sentence over a result. Values come written out; $count is a number where a form depends on it.

period-year = in { $one }
period-years = from { $one } to { $other }
period-quarter = in the { $number ->
    [1] first
    [2] second
    [3] third
   *[4] fourth
} quarter of { $year }
period-fiscal-year = in the fiscal year { $year }
period-month = in { $one }
period-months = from { $one } to { $other }
period-week = in the week of { $one }
period-day = on { $one }
period-days = from { $one } to { $other }
period-span = from { $one } to { $other }
period-since = since { $one }
period-from = from { $one } on
period-before = before { $one }
period-so-far = { $period } so far
period-to-now = from { $one } to now
period-until-now = up to now
and = { $one } and { $other }
with-conditions = { $what } ({ $conditions })
by-time = { $when } ({ $words })
by = { $what } by { $per }
not = not { $what }
points = percentage points
unsaid = none given
quarter = Q{ $number } { $year }
no-value = no value

none = None found: { $what }.
restated = { $count ->
    [0] No
   *[other] { $n }
}
figure = { $what }: { $value }.
figures = { $head }: { $parts }.
part = { $what } { $value }
more = { $what }: { $one } { $period }, { $difference } more than { $before } ({ $other }).
less = { $what }: { $one } { $period }, { $difference } less than { $before } ({ $other }).
level = { $what }: { $one } both { $period } and { $before }.
list = { $count ->
    [one] { $things }: { $names }.
   *[other] { $n } { $things }: { $names }.
}
list-more = { $n } { $things }: { $names } and { $more } more.

highest = { $what }: { $name } is highest with { $value }{ $then }.
lowest = { $what }: { $name } is lowest with { $value }{ $then }.
ahead = , { $difference } ahead of { $name } ({ $value })
below = , { $difference } below { $name } ({ $value })
level-first = { $what }: { $names } are level with { $value }.
then-lowest = Lowest of all { $all } is { $name } with { $value }.
then-highest = Highest of all { $all } is { $name } with { $value }.
then-last = Last of the { $all } shown is { $name } with { $value }.
all-equal = { $what }: { $value } for each of the { $all }.

trend = { $what }: from { $first } ({ $from }) to { $last } ({ $to }); highest: { $high } with { $most }, lowest: { $low } with { $least }.
trend-flat = { $what }: { $value } throughout, from { $from } to { $to }.
trend-up = { $last } is { $difference } above { $before }.
trend-down = { $last } is { $difference } below { $before }.
trend-level = { $last } is level with { $before }.
in-part = { $name } is there in part only: { $value }.
unfinished = { $name } has not ended: { $value } so far.

# The read-back, a part on each line.
line-does = In full
line-counted = Counted
line-shown = Shown
line-from = From
line-only = Only
line-by-notes = By the notes
line-per = Per
line-kept = Kept
line-once = Once
line-order = Order
line-first = First
line-after = Without the first
line-as-written = As written
along-keys = { $tables }, along their keys
equal-rows = equal rows

# A result that is told by its rows.
rows-none = Nothing in the data meets these conditions.
rows = { $n } rows
rows-cut = More than { $n } rows
rows-alone = { $rows }.
rows-named = { $rows }: { $names }.
rows-named-more = { $rows }: { $names } and { $more } more.

# Charts.
chart-line = a line
chart-bars = bars
chart-columns = columns
chart-parts = a ring of parts
chart-points = points
chart-grid = a grid of shades
chart-unfit = These rows cannot be drawn as { $wish }; they are drawn as { $kind } instead.
chart-none = A picture of these rows would say nothing more than the table.
chart-no-figures = There are no figures to draw in these rows.
chart-one-row = There is one row only: that is no picture.
chart-one-column = There is nothing beside the figures to draw them along.
chart-many-columns = More than two columns tell these rows apart: that is too much for one picture.
chart-too-many = There are too many rows to draw.
chart-unknown = “{ $wish }” is not understood as a wish about the picture. Say how (“as bars”), by what (“by vessel”) or how many (“only the top 10”).
yes = yes
no = no
chart-wished = Drawn as { $kind }, as “{ $words }” wishes.
chart-table = No picture, as “{ $words }” wishes.
chart-rest = and { $n } more that are not drawn: { $names }
chart-under-way = { $name } is not over yet.
chart-from = The axis begins at { $value }.
chart-cut = Drawn from the rows on show, which are not all.

# An old answer, again.
since-same = The same as on { $when }.
since-changed = Since { $when }: { $parts }.
since-unkept = The rows of { $when } are kept no more, so that nothing can be compared.
since-other-columns = Other columns come now than on { $when }: the tables themselves have changed.
since-part = Compared are the rows on show, which are not all.
since-come = { $count ->
    [one] one row has come{ $names }
   *[other] { $n } rows have come{ $names }
}
since-gone = { $count ->
    [one] one row is gone{ $names }
   *[other] { $n } rows are gone{ $names }
}
since-moved = { $count ->
    [one] one more row is different
   *[other] { $n } more rows are different
}
since-more = { $name } { $now }, { $by } more than then ({ $then })
since-less = { $name } { $now }, { $by } less than then ({ $then })
since-else = { $name } { $now }, then { $then }

# A remark, where the figures hold one.
remark-gap = { $count ->
    [one] There is nothing for { $names }.
   *[other] There is nothing for { $n } of the times between: { $names }.
}
remark-step-up = The largest step is from { $before } to { $last }: { $difference } more.
remark-step-down = The largest step is from { $before } to { $last }: { $difference } less.
remark-most = { $name } alone is { $share } % of all.
remark-far = { $name } stands far from the rest: half of all lie between { $low } and { $high }.

# -- a whole result

delivered = { $rows ->
    [0] The whole result has no rows.
    [one] The whole result: 1 row, as a file.
   *[other] The whole result: { $written } rows, as a file.
}
delivered-cut-rows = Not the whole result: deliveries end after { $written } rows here.
delivered-cut-bytes = Not the whole result: it was cut after { $written } rows, for its size.
delivered-without = Without { $columns }: what is personal, or comes no more, does not stand in a file that is handed over.

# How fresh the data are.
fresh-column = Data up to { $at }.
fresh-replica = From a copy that is as of { $at }.
fresh-file = From a file last written on { $at }.

# Caveats: what is doubtful about a statement or its rows.
caveat-averages-averages = It averages averages or shares: groups of unequal size weigh the same.
caveat-sum-times-average = A sum times an average is not the sum of the products.
caveat-bare-column = { $column } is neither grouped by nor aggregated: its value is that of some row.
caveat-clock = The query asks the clock of the database; the question is about { $now }.
caveat-distinct-drops = { $figure }(DISTINCT …) takes equal values once only.
caveat-distinct-values = It counts the different values of { $column }, not what they belong to.
caveat-integer-division = Both sides are whole numbers: the fraction is cut off.
caveat-last-day-lost = The last day, { $day }, only counts with its first instant: { $column } has a time of day.
caveat-left-join-undone = The condition on { $table } in WHERE drops the rows that LEFT JOIN was to keep.
caveat-counts-empty = COUNT(*) counts one for a row that has no { $table }.
caveat-multiplied = A row of { $table } stands there once for each row of { $by }, so that { $figure ->
    [sum] it is added
    [avg] it weighs
   *[count] it is counted
} too often.
caveat-null-compared = Nothing equals NULL, not even NULL: the condition is never met.
caveat-not-in-nullable = { $column } can be NULL, and then NOT IN lets nothing through.
caveat-nulls-lost = Rows in which { $column } is { $means } (NULL) are left out as well.
caveat-null-as-zero = Rows without a value go into the average as zero.
caveat-counts-nothing = It counts values of { $column } among rows that have none.
caveat-divided-by-none = Rows without { $column } are divided by as well.
caveat-types-differ = { $left } holds { $one } values, { $right } { $other } values.
caveat-off-key = No key joins { $left } to { $right }.
caveat-wrong-whole-time = The whole is counted over all times; the part only where { $column } is limited.
caveat-wrong-whole = The whole leaves out rows that the part may hold.
caveat-unit-called = The figure is in { $unit }; it is called { $name }.
caveat-unjoined = Nothing ties { $right } to { $left }: every row meets every row.
caveat-unknown-kind = { $column } holds { $kind ->
    [boolean] true or false
   *[number] numbers
}, not '{ $value }'.
caveat-wrong-case = { $column } holds '{ $same }', not '{ $value }': capitals count.
caveat-code-by-meaning = { $column } holds codes; what you call '{ $value }' is stored as '{ $code }'.
caveat-unknown-value = { $column } never holds '{ $value }'.
caveat-result-cut = The result was cut at the allowed { $by ->
    [rows] number of rows
   *[bytes] size
}: these are the first { $rows } rows.
caveat-result-empty = Nothing in the data meets all conditions; it may be so, or a condition may be wrong.
caveat-result-all-null = The figure is empty: no row went into it.
caveat-result-repeats = Some rows stand there more than once.
caveat-result-alike = Some rows look the same: they are different ones with the same values in what is shown.
caveat-result-unnamed = One line has no { $name }: it stands for all rows in which { $column } is empty.
caveat-result-backwards = { $figure } is { $value } at most: the later time is taken from the earlier one.
caveat-result-negative = { $figure } is { $value }: nothing can be counted so.
caveat-result-constant = { $figure } is { $value } in every row.
caveat-no-share = { $figure } is { $value }: no share lies there.
caveat-result-outside = { $figure } is { $value }; { $column } lay between { $least } and { $most }.
caveat-total-differs = { $rows } rows of { $table } are counted more than once: a join ties them to several.
caveat-none-left = No row is left because of { $condition }; without it there are { $rows }.
caveat-none-left-there = { $said } There { $column } is { $held }.
caveat-no-group = No group meets { $condition }: { $figure } lies between { $least } and { $most }.
caveat-result-ties = The next row is level with the last one shown ({ $value }): which of them is cut off is chance.
caveat-not-reviewed = The rule { $rule } could not read this statement.
caveat-unconfirmed = This could not be worked out in a second way: nothing confirms it but the SQL itself.
caveat-unconfirmed-beside = Beside what was worked out in a second way stands a figure that nothing confirms.
caveat-control-differs = Our own query, built from the question as { $model } reads it, gives another result: { $said }.
caveat-changed-differs = Our own query, built from how the question before was read, changed as you say, gives another result: { $said }.
caveat-draft-differs = A second draft, by { $model }, gives another result: { $said }.
caveat-doubtful-itself = { $said } It is doubtful itself: { $doubt }
caveat-said-left-out = What was said of { $numbers } is not part of the question that is answered here.
caveat-two-readings = The question can be read in { $n } ways: { $ways }. This answer takes one of them.
or-else = { $one }; or { $other }
follow-per = per { $words }
follow-only = only { $words }
caveat-withheld = The question speaks of { $words }, which is withheld here: the answer leaves it out.
caveat-silenced = Silenced for this question by whoever asked: { $names }.
caveat-silenced-said = { $said } It would have said: { $would }
differs-figure = { $other } instead of { $one }
differs-rows = { $n ->
    [1] one row
   *[other] { $other } rows
} instead of { $one }
differs-values = { $n ->
    [1] one row
   *[other] { $other } rows
} as well, with other values
differs-order = the same rows in another order
differs-also-asks = It also asks that { $condition }; without that the two agree
differs-this-also-asks = This answer also asks that { $condition }; without that the two agree
differs-this-stops = This answer stops after { $rows } rows; without that the two agree
differs-stops = It stops after { $rows } rows; without that the two agree
and-why = { $said }. { $why }
same-result = Another statement with the same result
same-as-far = Another statement with the same result as far as it goes, which settles nothing

# How an inquiry ends without an answer.
end-out-of-time = The inquiry took longer than it may.
end-out-of-tokens = The inquiry used more tokens than it may.
narrower = Ask something narrower, or let a steward raise { $limit }.
end-standstill = Everything stands still: no statement reaches a database.
end-standstill-hint = An administrator takes that back with harquel standstill off; then ask again.
end-account = Nothing is asked with this account. { $fault }
end-account-hint = A steward connects the source with an account that may only read: harquel source account prints the script.
end-change = The question asks for a change; only reading is allowed here.
end-change-hint = Ask for the figures instead, or make the change in the application that owns the data.
end-not-in-data = The data does not hold what the question needs, says the model.
end-not-in-data-hint = Ask a steward whether the data exists elsewhere, or say it in words that the source knows.
models-words = The model's words: { $words } { $then }
answered-here = { $then } Answered here, for example: { $questions }
end-not-granted = The table { $table } is there, but this service's account may not read it.
end-not-granted-hint = Not granted yet: an administrator of the database runs { $grant }
end-refused-hint = Ask for something that only reads, or narrow the question.
no-usable-reply = No usable reply.
end-no-draft = No usable SQL came out of { $n } attempts. The last problem: { $reason }
end-no-draft-hint = Put the question in other words, or ask a steward to describe the data that it is about.
end-not-stored = The file could not be written: { $why }.
end-not-stored-hint = Tell the operator: the disk is full.
end-cancelled = The inquiry was stopped before it ended.
end-model-unusable = { $said }
end-source-unreachable = { $said }
end-internal = { $said }
end-no-delivery = No whole results are handed over from this source.
end-no-delivery-hint = Ask a steward: the policy has no section delivery.
end-delivery-roles = Whole results of this source are handed over to some roles only.
end-delivery-roles-hint = Ask somebody who has one of them: { $roles }.
end-delivery-personal-hint = What is handed over holds no personal columns here: take them out of the question.
asks-nothing = That asks for nothing that the data could say. What would you like to know?
follow-up-unclear = What is asked could not be made out from what came before. Ask it as a whole question: what is counted, which of them and when?
redraft-same = The same rows as before.
claim-right = That is the { $claimed } that you said.
claim-wrong = It is not the { $claimed } that you said.
model-asks = The model asks: { $question }
meant-differently = The question can be meant in ways that come to different results. Which is it?

# How a question was understood, part by part.
read-rows = rows of { $table }
read-and = { $one } and { $other }
read-or = { $one } or { $other }
read-not = not: { $what }
read-where = { $what } where { $conditions }
read-listed = listed with { $columns }
read-across = the { $figure } of figure { $n }
read-for-each = { $said } for each { $column }
read-tally = how many of those there are
read-unit-of = { $unit } of { $column }
read-unit-year = year
read-unit-quarter = quarter
read-unit-month = month
read-unit-week = week
read-unit-day = day
read-unit-weekday = weekday
read-unit-hour = hour
read-unit-clock = clock
read-unit-fiscal-year = fiscal year
read-unit-fiscal-quarter = fiscal quarter
read-first-of-each = the first { $n } of each { $by }
read-only-from = only from { $which }
read-ordered = { $which } by { $by }
read-order = by { $by }
read-highest-first = { $by }, highest first
read-lowest-first = { $by }, lowest first
read-top = the first { $n }
read-top-both = the first { $n } from either end
read-figure-number = figure { $n }
read-of-difference = difference of figures { $one } and { $other }
read-of-ratio = ratio of figures { $one } and { $other }
read-of-percent = percent of figures { $one } and { $other }
read-of-part = figure { $one } as a part of all, in percent
read-of-running = figure { $one } so far
read-of-change = what figure { $one } is more than before
read-share-of = share
read-share = { $what }, in percent
read-figure-count = counted
read-figure-distinct = different { $what }
read-figure-sum = sum of { $what }
read-figure-average = average of { $what }
read-figure-minimum = least { $what }
read-figure-maximum = most { $what }
read-figure-median = middle { $what }
read-figure-measure = { $what }
read-lasted = { $unit } from { $since } to { $until }
read-less = { $what } less { $other }
read-times = { $what } times { $other }
read-over = { $what } for each of { $other }
read-divided = { $what }, divided by { $by }
read-how-many = how many
read-of-rows = { $what } of { $table }
read-is-equal = { $what } is { $value }
read-is-in = { $what } is one of { $value }
read-is-less = { $what } less than { $value }
read-is-at-most = { $what } at most { $value }
read-is-more = { $what } more than { $value }
read-is-at-least = { $what } at least { $value }
read-is-between = { $what } between { $value }
read-is-like = { $what } like { $value }
read-is-empty = { $what } is empty
read-at-least = at least { $n }
read-at-most = at most { $n }
read-some = some
read-has = { $count } of { $what }
read-different-of = { $column } of { $table }
read-has-different = { $count } different { $what }
read-of-the-same = { $what } of the same { $unit }
read-number-of = number of { $what }
read-the = the { $what }
read-empty = empty
read-dated = { $when } by { $column }
read-the-average = the average
read-kept = kept where { $what }
read-per = per { $what }

# What became of a second way.
second-held = Its statement would have to be released: { $reason }
second-settles = { $said }; settled by that: { $rules }
second-no-query = No query of our own can be built from how it reads the question: { $why }
second-no-draft = No second draft came about.
second-may-not = The second { $what } may not run: { $reason }
second-same-statement = It is the same statement
second-cut = A result was cut, so that the two cannot be compared.

# An answer taken away.
export-result = Result
export-grounds = Grounds
ground-question = Question
ground-answer = Answer
ground-worded = Worded by
ground-worded-every-figure = { $model }; every figure was found in the rows
ground-remark = Remark
ground-trust = Trust
trust-clear = clear
trust-caution = caution
ground-two-ways = came out the same in two ways
ground-caveat = Caveat
ground-source = Source
ground-as-of = As of
ground-data = Data
ground-asked-by = Asked by
ground-read-back = What the query does
ground-measure = Agreed measure { $name }, version { $version }
ground-cut = Not whole
ground-cut-after = The result was cut after { $n } rows.
ground-inquiry = Inquiry

# What a part could have meant instead.
instead-dated-by = by { $what } of { $of }

# What went wrong with a source.
error-unreadable = The database cannot be read: { $why }.
    .hint = Check that the source is there and not locked by another program.
error-scan-under-way = The first scan is still under way ({ $done } of { $tables } tables).
    .hint = Ask again in a moment.
error-scan-begun = The first scan is still under way (reading the structure).
    .hint = Ask again in a moment.
no-room-of-ours = whole results take { $taken } MB already, of { $most } that they may
no-room-on-disk = only { $free } MB are left on the disk
differs-not-where-meant = The two agree where it is meant otherwise: { $label }

# Why a statement is held or refused.
held-always = Every statement on this source is released by hand.
held-table = Statements that read { $table } are released by hand.
held-role = Questions of people with the role { $role } are released by hand.
held-whole = Whole results are handed over once somebody has released that.
plan-gathers = About { $n } values would be put together into one; at most { $most } may.
plan-rows-refused = The plan would read about { $n } rows; at most { $most } are allowed. { $cheaper }
plan-cost-refused = The plan costs { $cost } by the database's own measure; at most { $most } is allowed. { $cheaper }
plan-rows-held = The plan would read about { $n } rows; above { $most } somebody releases it. { $cheaper }
plan-cost-held = The plan costs { $cost } by the database's own measure; above { $most } somebody releases it. { $cheaper }
plan-large-held = The plan is large: somebody releases it.
plan-large-refused = The plan reads more than is allowed.
plan-cheaper-period = Narrow it: a shorter period of { $column }, which has an index.
plan-cheaper-condition = Narrow it: a condition on { $column }, which has an index.
plan-cheaper = Narrow it: a shorter period, or conditions on columns with an index.
guard-rows-unproved = It cannot be shown that only permitted rows of { $table } would be read.
guard-row-rule-hint = Ask a steward to complete your values, or to correct the policy.
guard-personal-count = { $column } is personal: it may be counted, and nothing else.
guard-personal-count-hint = Write COUNT({ $column }) or COUNT(DISTINCT …) in the select list, or leave it out.
guard-personal = { $column } is personal and may not be used.
guard-personal-hint = Leave it out; rows may be counted, and grouped by columns that are not personal.
guard-listing = Of { $tables } only a share of the rows is listed; this would put all in one value.
guard-listing-hint = Count, or group by something that many rows share.
guard-function = The function { $name } is not allowed.
guard-reads-only = The statement would do more than read ({ $what }).

# What went wrong with a language model.
model-nobody = nobody answers at { $url }{ $why }
model-silent = its server was silent for too long
model-hung-up = its server hung up, or what it said is no HTTP
model-broke = the connection to it broke{ $why }
model-answered = its server answered { $status }
model-nonsense = its reply cannot be read: { $why }
model-stumbled = its server broke off with: { $why }
model-broke-off = its reply broke off in the middle
model-away = The language model { $name } cannot be used: { $why }.
model-away-hint = Check that a model server runs at { $url } and knows { $name }.
model-call-broke = The call of the language model broke; the service's log says how.
model-refused = The server of the language model { $name } answered { $status }: { $words }
model-all-away = None of the language models can be used: { $why }
model-resting = The language model { $name } is left alone for { $seconds } s, because it failed { $times } times in a row.
model-late = The language model { $name } did not finish in { $seconds } s.
    .hint = Ask again, or raise limits.inquiry_s in the policy.
model-too-much = The language model { $name } sent { $what }.
    .hint = Check its settings, or use another model.
model-key = The server of the language model { $name } does not know our key ({ $status }).
    .hint = Check models.{ $called }.key: where it points to, and that it has not ended.
model-unknown = There is no language model { $name } at { $url }.
    .hint = Correct models.{ $called }.name or base_url; “harquel model check” names those that are there.
model-used-up = What may be spent on the language model { $name } is used up, says its server.
    .hint = Raise the limit with its provider, or name another model for this duty.
model-too-long = The prompt is longer than the language model { $name } reads.
    .hint = Lower limits.prompt_tokens in the policy, or use a model that reads more.
model-withheld = The server of the language model { $name } kept its reply back.
    .hint = Put the question in other words; its provider's rules decide what it answers.
model-tool = The language model { $name } called a tool that nobody gave it.
    .hint = Ask again, or use another model.
model-no-room = The language model { $name } came to its longest reply before it said anything.
    .hint = Raise models.*.longest, or lower its effort.
model-no-time = There was no time left to ask a language model.
and-then = { $one } { $other }
model-crowded = Too many wait for the language model { $name }.
    .hint = Ask again, or let it take more calls at once (models.*.at_once).

# What may be spent in a day.
end-over-budget = { $said }
budget-all = With this question more would be spent today than may be: { $limit }.
budget-person = With this question more would be spent today for { $name } than may be: { $limit }.
budget-source = With this question more would be spent today on { $name } than may be: { $limit }.
budget-hint = Ask again tomorrow (UTC), or have the operator raise budgets in harquel.toml.

# Which source is meant.
source-because = Asked of { $source }: it knows { $words }.
which-source = Which source is this about?
letter-rest = … and { $n } more.
letter-opens = The whole of it, once you have signed in:
letter-attached = Attached: { $name }.
letter-sent = { $name } had this sent to you by Harquel. It was worked out from the database; nobody reads replies to it.
chat-clear = Mark: clear.
chat-caution = Take with caution: { $why }{ $more ->
    [0] {""}
    [one] {" "}(and one more reason)
   *[other] {" "}(and { $more } more reasons)
}
chat-more-rows = … and { $count ->
    [one] one more row
   *[other] { $n } more rows
}: “table”.
chat-rows = { $shown } of { $n } rows.
chat-choose = Say a number, or ask it otherwise.
chat-held = This query is held until somebody with the right to looks at it. What becomes of it stands there:
chat-no-answer = There is no answer.
chat-not-here = What was asked may not be told in this chat. Read it there:
chat-personal = It is answered. There is something personal in it, which is not told in chats. Read it there:
chat-alone = It is for whoever asked; I have sent it to them alone.
chat-takes-long = This takes long. What becomes of it stands there:
chat-thinking = Thinking …
chat-stranger = I do not know yet who you are here. Sign in to Harquel, have it make a code for this chat, and write to me directly: link CODE
chat-link-here = Others read along here, so that this code counts no more. Have another one made, and write it to me directly.
chat-code-wrong = This code does not count: it is for another chat, was used before, or is older than a quarter of an hour. Have a new one made in Harquel.
chat-code-rest = Too many codes were wrong. Try again in an hour.
chat-linked = From now on I know you as { $name }. Ask me something, or say “help”. “unlink” ends it.
chat-unlinked = I do not know you here any more.
chat-too-fast = That was a lot at once. I see to what you say again in a minute.
chat-too-long = That is too long: { $n } characters at most.
chat-nothing = I read only text. Say “help”.
chat-no-source = There is nothing here that you may ask about in this chat. Whoever looks after a source can let it (chat: in its policy).
chat-nothing-before = There is no answer in this thread to look into.
chat-nothing-under-way = Nothing is under way here.
chat-under-way = I am still at what you asked before. “stop” ends it.
chat-stopped = Stopped.
chat-no-such-choice = Say a number from 1 to { $n }, or ask it otherwise.
chat-one-word = What about “{ $word }”? Nothing here is called that. Ask it as a question, for example: { $starters }
chat-sources = You may ask about: { $names }. “NAME: question” asks one of them. For example:
chat-help = Ask me something about { $names }; what you say in a thread follows what was said there. “why?” tells what was counted, “table” more rows, “stop” ends what is under way, “keep this in …” puts the answer into a casebook, “sources” what can be asked, “unlink” forgets you. For example:
chat-button-why = Why?
chat-button-table = Table
when-not-understood = That does not say when. Write “every Monday at 8:00”, “weekdays at 7:30”, “on the 1st of each month at 6:00”, or five fields as cron has them.
when-never = That never comes.
when-too-often = That is more often than every { $minutes } minutes.
watch-always = Asked again, as agreed ({ $when }).
watch-change = It is otherwise than when it was told last.
watch-above = It is above { $line } now: { $figure }.
watch-below = It is below { $line } now: { $figure }.
watch-by = It has moved by { $line } or more since it was told last: { $figure } now, { $before } then.
watch-missing = There is nothing where there was something.
watch-appears = There are rows now where there were none: { $rows }.
watch-doubt = It was asked again, and what came is doubtful, so that no figure is told here. Look at it.
watch-moved = It was asked again, but its tables are built otherwise since it was told last, so that no figure is told here. Look at it; from the next time on it is told again.
watch-failed = It could not be answered { $n } times in a row. Look at why.
watch-subject = { $title }
letter-watch = { $name } has this question watched ({ $when }). Harquel asks it by itself; nobody reads replies to this letter.

letter-casebook = The casebook is enclosed, as a page for every browser. Its figures are of the time that it says.
casebook-line = By { $owner } · version { $version } of { $at }
casebook-gone = The answer that stood here is there no more.
casebook-again-under-way = It is being asked again; this is the answer before.
casebook-again-no-answer = It was asked again and not answered; this is the answer before.
cited-cut = the answer is cut off, so that another row like it may be missing
cited-unkept = its rows are kept no more; ask it again
cited-no-row = no row is called that
cited-many-rows = there are several rows; name one: [=name: column | key]
cited-many-columns = it has several figures; name one: [=name: column]
cited-no-column = it has no such column
cited-no-answer = no answer called { $name } is kept here
cited-not-shown = the answer is not shown to you
shown-no-source = It is of a source that you do not have.
shown-under-way = It is still being worked on.
shown-no-answer = It was not answered.
shown-not-for-you = With your rights it might not be the same answer. Ask it yourself.
chat-kept = It is kept in your casebook “{ $title }”, answer { $n } there.
open-link-line = Shown to you by { $name }, as it was at { $at }. This page holds until { $until }.
open-link-none = This link shows nothing.
    .hint = It may be over, or not written out whole. Ask whoever gave it to you.
