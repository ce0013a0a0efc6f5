"""English."""

from __future__ import annotations

from typing import Final

from harquel.core.language.pack import Pack, words

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
)
