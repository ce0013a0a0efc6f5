"""What a statement may consist of, per engine. Whatever is not named here is refused."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

Kinds = tuple[type[exp.Expr], ...]
_T = exp.DataType.Type

# Structure, conditions, arithmetic and literals that only read. No locks, no INTO, no table functions.
_STRUCTURE: Final[Kinds] = (
    exp.Select, exp.Subquery, exp.Union, exp.Intersect, exp.Except, exp.With, exp.CTE, exp.Values,
    exp.From, exp.Join, exp.Table, exp.TableAlias, exp.Alias, exp.Column, exp.Identifier, exp.Star,
    exp.Where, exp.Group, exp.Having, exp.Order, exp.Ordered, exp.Limit, exp.Offset, exp.Distinct,
    exp.Window, exp.WindowSpec, exp.Filter, exp.Tuple, exp.Paren, exp.Literal, exp.Null, exp.Boolean,
    exp.Var, exp.And, exp.Or, exp.Not, exp.EQ, exp.NEQ, exp.GT, exp.GTE, exp.LT, exp.LTE, exp.Is,
    exp.NullSafeEQ, exp.NullSafeNEQ, exp.In, exp.Between, exp.Like, exp.Escape, exp.Exists,
    exp.Add, exp.Sub, exp.Mul, exp.Div, exp.Mod, exp.Neg, exp.DPipe, exp.Collate, exp.Case, exp.If,
    exp.Cast, exp.DataType, exp.DataTypeParam,
)  # fmt: skip

# Functions that the library is let know; all others are kept by name.
_FUNCTIONS: Final[Kinds] = (
    exp.Count, exp.Sum, exp.Avg, exp.Min, exp.Max, exp.GroupConcat, exp.Abs, exp.Coalesce, exp.Greatest, exp.Least,
    exp.CurrentDate, exp.CurrentTime, exp.CurrentTimestamp,
)  # fmt: skip
_SQLITE: Final[Kinds] = (exp.Glob, exp.HexString)
_SERVERS: Final[Kinds] = (
    exp.Interval, exp.Extract, exp.StrPosition, exp.Substring, exp.Trim, exp.Any, exp.All, exp.WithinGroup,
    exp.PercentileCont, exp.Rollup, exp.Cube,
)  # fmt: skip
_POSTGRESQL: Final[Kinds] = (
    *_SERVERS, exp.ILike, exp.SimilarTo, exp.RegexpLike, exp.RegexpILike, exp.AtTimeZone, exp.GroupingSets,
    exp.PercentileDisc, exp.Mode, exp.Array, exp.Overlay, exp.Overlaps, exp.Kwarg, exp.Lateral, exp.JSONExtract,
    exp.JSONExtractScalar, exp.JSONPath, exp.JSONPathRoot, exp.JSONPathKey, exp.JSONPathSubscript,
)  # fmt: skip
_MARIADB: Final[Kinds] = (*_SERVERS, exp.IntDiv, exp.Xor, exp.IndexTableHint, exp.CharacterSet)

KINDS: Final[dict[str, frozenset[type[exp.Expr]]]] = {
    "sqlite": frozenset(_STRUCTURE + _FUNCTIONS + _SQLITE),
    "postgresql": frozenset(_STRUCTURE + _FUNCTIONS + _POSTGRESQL),
    "mariadb": frozenset(_STRUCTURE + _FUNCTIONS + _MARIADB),
}


def _names(*texts: str) -> frozenset[str]:
    return frozenset(" ".join(texts).split())


_WINDOWS = "ROW_NUMBER RANK DENSE_RANK PERCENT_RANK CUME_DIST NTILE LAG LEAD FIRST_VALUE LAST_VALUE NTH_VALUE"
_MATHS = (
    "ROUND CEIL CEILING FLOOR SIGN SQRT POWER POW EXP LN LOG LOG10 LOG2 MOD PI RADIANS DEGREES SIN COS TAN COT ASIN "
    "ACOS ATAN ATAN2"
)
_TEXTS = "LOWER UPPER LENGTH TRIM LTRIM RTRIM SUBSTR REPLACE CONCAT CONCAT_WS NULLIF"

# Functions that compute one value from their arguments and touch nothing else: no file, no network, no setting, no
# lock, no other session, no system's table. Those that can make a small input large have a rule of their own (growth).
NAMES: Final[dict[str, frozenset[str]]] = {
    "sqlite": _names(
        _WINDOWS,
        _MATHS,
        _TEXTS,
        "DATE TIME DATETIME JULIANDAY UNIXEPOCH STRFTIME TIMEDIFF TOTAL IIF IFNULL INSTR SUBSTRING TYPEOF LIKE GLOB "
        "TRUNC PRINTF FORMAT HEX UNICODE CHAR QUOTE JSON_EXTRACT JSON_TYPE JSON_VALID JSON_ARRAY_LENGTH "
        "JSON_OBJECT JSON_ARRAY JSON_GROUP_ARRAY JSON_GROUP_OBJECT LIKELY UNLIKELY",
    ),
    "postgresql": _names(
        _WINDOWS,
        _MATHS,
        _TEXTS,
        # texts
        "BTRIM CHAR_LENGTH CHARACTER_LENGTH OCTET_LENGTH BIT_LENGTH LEFT RIGHT SPLIT_PART STRPOS INITCAP REVERSE "
        "TRANSLATE LPAD RPAD REPEAT ASCII CHR MD5 TO_HEX FORMAT STARTS_WITH REGEXP_REPLACE REGEXP_MATCH REGEXP_LIKE "
        "REGEXP_COUNT REGEXP_SUBSTR REGEXP_INSTR OVERLAY",
        # numbers
        "TRUNC CBRT DIV GCD LCM WIDTH_BUCKET GREATEST LEAST NUM_NONNULLS NUM_NULLS SCALE",
        # times
        "AGE DATE_PART DATE_TRUNC DATE_BIN DATE MAKE_DATE MAKE_TIME MAKE_TIMESTAMP MAKE_TIMESTAMPTZ MAKE_INTERVAL NOW "
        "CLOCK_TIMESTAMP STATEMENT_TIMESTAMP TRANSACTION_TIMESTAMP TIMEZONE TO_CHAR TO_DATE TO_NUMBER TO_TIMESTAMP "
        "JUSTIFY_DAYS JUSTIFY_HOURS JUSTIFY_INTERVAL ISFINITE",
        # aggregates
        "ARRAY_AGG JSON_AGG JSONB_AGG JSON_OBJECT_AGG JSONB_OBJECT_AGG",
        "BOOL_AND BOOL_OR EVERY STDDEV STDDEV_POP STDDEV_SAMP VARIANCE VAR_POP VAR_SAMP CORR COVAR_POP "
        "COVAR_SAMP REGR_SLOPE REGR_INTERCEPT REGR_R2 REGR_COUNT REGR_AVGX REGR_AVGY GROUPING BIT_AND BIT_OR",
        # arrays and JSON of one row
        "CARDINALITY ARRAY_LENGTH ARRAY_POSITION ARRAY_TO_STRING JSONB_TYPEOF JSON_TYPEOF JSONB_ARRAY_LENGTH "
        "JSON_ARRAY_LENGTH JSONB_EXTRACT_PATH_TEXT JSON_EXTRACT_PATH_TEXT JSON_BUILD_OBJECT JSONB_BUILD_OBJECT "
        "JSON_BUILD_ARRAY JSONB_BUILD_ARRAY",
    ),
    "mariadb": _names(
        _WINDOWS,
        _MATHS,
        _TEXTS,
        # texts
        "CHAR_LENGTH CHARACTER_LENGTH OCTET_LENGTH BIT_LENGTH LEFT RIGHT MID SUBSTRING_INDEX LOCATE INSTR STRCMP ELT "
        "FIELD FIND_IN_SET LPAD RPAD REPEAT SPACE REVERSE UCASE LCASE ASCII ORD HEX FORMAT INSERT REGEXP_REPLACE "
        "REGEXP_INSTR REGEXP_SUBSTR TO_CHAR QUOTE MD5 CRC32 SOUNDEX",
        # numbers and choices
        "TRUNCATE BIT_COUNT INTERVAL IF IFNULL NVL NVL2 ISNULL GREATEST LEAST",
        # times
        "DATE TIME TIMESTAMP YEAR QUARTER MONTH WEEK DAY HOUR MINUTE SECOND MICROSECOND DAYNAME MONTHNAME DAYOFWEEK "
        "DAYOFMONTH DAYOFYEAR WEEKDAY WEEKOFYEAR YEARWEEK LAST_DAY MAKEDATE MAKETIME STR_TO_DATE DATE_FORMAT "
        "TIME_FORMAT DATE_ADD DATE_SUB ADDDATE SUBDATE ADDTIME SUBTIME DATEDIFF TIMEDIFF TIMESTAMPDIFF TIMESTAMPADD "
        "TO_DAYS FROM_DAYS TO_SECONDS TIME_TO_SEC SEC_TO_TIME UNIX_TIMESTAMP FROM_UNIXTIME PERIOD_ADD PERIOD_DIFF NOW "
        "CURDATE CURTIME CURRENT_DATE CURRENT_TIME CURRENT_TIMESTAMP LOCALTIME LOCALTIMESTAMP SYSDATE UTC_DATE "
        "UTC_TIME UTC_TIMESTAMP CONVERT_TZ",
        # aggregates
        "STD STDDEV STDDEV_POP STDDEV_SAMP VARIANCE VAR_POP VAR_SAMP MEDIAN BIT_AND BIT_OR BIT_XOR",
        "JSON_EXTRACT JSON_VALUE JSON_UNQUOTE JSON_LENGTH JSON_TYPE JSON_VALID JSON_OBJECT JSON_ARRAY JSON_ARRAYAGG "
        "JSON_OBJECTAGG",
    ),
}

GATHERING: Final = _names(
    "GROUP_CONCAT STRING_AGG LISTAGG ARRAY_AGG JSON_AGG JSONB_AGG JSON_OBJECT_AGG JSONB_OBJECT_AGG JSON_GROUP_ARRAY "
    "JSON_GROUP_OBJECT JSON_ARRAYAGG JSON_OBJECTAGG"
)
"""Aggregates that put the values of many rows into one, by whatever name: what holds for lists holds for them."""

WHY_NOT: Final[dict[str, tuple[str, str]]] = {
    **dict.fromkeys(("ROW_TO_JSON", "TO_JSON", "TO_JSONB", "JSON_POPULATE_RECORD", "ROW"), (
        "it takes whole rows, with what is withheld in them",
        "Name the columns: JSON_BUILD_OBJECT('name', name, …).",
    )),
    **dict.fromkeys(("JSON_EACH", "JSON_TREE", "JSON_ARRAY_ELEMENTS", "JSONB_ARRAY_ELEMENTS", "JSON_TABLE", "UNNEST"), (
        "how many rows it makes stands in the data and not in the statement",
        "Compare with IN (…), or take single places with the engine's JSON_EXTRACT.",
    )),
}  # fmt: skip
"""Functions that people write in good faith: why they may not be called, and what to write instead."""

TABLE_FUNCTIONS: Final[dict[str, frozenset[str]]] = {
    "sqlite": frozenset(), "postgresql": frozenset({"GENERATE_SERIES"}), "mariadb": frozenset(),
}  # fmt: skip
"""Functions that may stand in FROM."""
MODIFIERS: Final = frozenset({"STRAIGHT_JOIN", "SQL_NO_CACHE"})
"""Words right after SELECT that change nothing but how it is carried out."""

# Types that a value may be cast to: plain ones. Others read the system's tables (regclass), call functions
# of somebody's own (domains, user-defined types), or blow up (arrays, JSON).
_TYPES: Final = frozenset(
    (
        _T.TINYINT, _T.SMALLINT, _T.INT, _T.MEDIUMINT, _T.BIGINT, _T.UINT, _T.UBIGINT, _T.FLOAT, _T.DOUBLE, _T.DECIMAL,
        _T.TEXT, _T.VARCHAR, _T.CHAR, _T.NCHAR, _T.BOOLEAN, _T.DATE, _T.TIME, _T.TIMETZ, _T.TIMESTAMP, _T.TIMESTAMPTZ,
        _T.TIMESTAMPNTZ, _T.DATETIME, _T.INTERVAL, _T.UUID,
    )
)  # fmt: skip
TYPES: Final[dict[str, frozenset[object]]] = {
    "sqlite": _TYPES | {_T.BLOB, _T.VARBINARY, _T.BINARY, "NUMERIC"},
    "postgresql": _TYPES,
    "mariadb": _TYPES - {_T.TEXT, _T.VARCHAR, _T.UUID} | {_T.BINARY, _T.CHARACTER_SET},
}

WRITES: Final[Kinds] = (
    exp.Insert, exp.Update, exp.Delete, exp.Merge, exp.Create, exp.Drop, exp.Alter, exp.TruncateTable,
    exp.Attach, exp.Detach, exp.Pragma, exp.Set, exp.Transaction, exp.Commit, exp.Rollback, exp.Into,
    exp.Lock, exp.Copy, exp.Command, exp.Grant, exp.Use, exp.Kill, exp.LoadData, exp.Analyze, exp.Cache,
)  # fmt: skip
"""Kinds that change something; they get a clearer word than "not allowed"."""
