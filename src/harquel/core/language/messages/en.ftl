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
unfinished = { $name } has not ended: { $value } so far.
extremes = { $what }: { $all } figures, highest for { $high } ({ $most }), lowest for { $low } ({ $least }).

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
delivered-without = Without what is personal: { $columns }. In a file that is handed over it does not stand here.

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
caveat-draft-differs = A second draft, by { $model }, gives another result: { $said }.
caveat-doubtful-itself = { $said } It is doubtful itself: { $doubt }
caveat-two-readings = The question can be read in { $n } ways: { $ways }. This answer takes one of them.
or-else = { $one }; or { $other }
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
