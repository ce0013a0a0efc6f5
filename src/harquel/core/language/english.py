"""English."""

from __future__ import annotations

from typing import Final

from harquel.core.language.pack import Pack, bases, words

ENGLISH: Final = Pack(
    code="en",
    commonest=words("the of in and is are was were which what how many much did do does by per for to on this"),
    light=words(
        "a an the this that these those there here of in on at by for to from with as it its they them their he "
        "she we us our you your i me my is are was were be been being am do does did have has had having can could "
        "will would shall should may might must what which who whom whose when where how and or if so please show "
        "list give tell meaning s t re ve ll d m"
    ),
    denials=words(
        "not no never none nothing nobody neither nor without except excluding don doesn didn isn aren wasn weren "
        "hasn haven hadn won can't cannot"
    ),
    articles=words("the"),
    leads=words("and but then now about only just instead rather same again one ones okay ok for so thanks thank"),
    places=words("for of"),
    between=words("a an the this that it is are was were be been do does did has have had there of in on at"),
    tag=r"(?:right|correct|really|(?:is|was|are|were|did|do|does|has|have)n['’]t (?:it|they|there|that|we))",
    since_then=(("since", "then"),),
    openers=(("what", "about"), ("how", "about")),
    why=words("why"),
    directions=words("from to in with into out via through towards by at on over under between against without"),
    asking=words("how many much number count per each every"),
    turned=words("do does did there has had have can could will would shall should may might must i we you"),
    pictures=bases(
        "line line lines curve, bars bar bars, columns column columns, parts pie donut doughnut ring, "
        "points scatter points dots, grid heatmap heat grid, table table"
    ),
    chart=words("chart charts graph plot diagram map"),
    each=words("by per each every"),
    as_a=words("as in with"),
    only_as=words("as"),
    only_first=words("only just top first best draw drawn"),
    empty=words(
        "a an the of in on at by for to from and or is are was were be been has have had do does did how many much "
        "what which who whom whose when where why that this these those with without per each every all any some "
        "than then there it its their our your my me we you they i as not no only show list give tell get find "
        "please can could would should first last most least top bottom more less over under between during since "
        "until before after against compared compare versus vs than us them him her his so if into out up down"
    ),
    bases=bases(
        "person people persons, child children, man men, woman women, foot feet, sell sold, buy bought, teach taught, "
        "send sent, hold held, bring brought, catch caught, keep kept, lose lost, meet met, choose chose chosen, "
        "break broke broken, speak spoke spoken, write wrote written, drive drove driven, give gave given, "
        "grow grew grown, know knew known, fly flew flown, begin began begun, steal stole stolen, spend spent, "
        "lend lent, build built, birth born, win won"
    ),
)
