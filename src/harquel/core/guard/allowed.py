"""What a statement may consist of, per engine. Whatever is not named here is refused."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

# Structure, conditions, arithmetic and literals that only read. No locks, no INTO, no table functions.
_STRUCTURE: Final[tuple[type[exp.Expr], ...]] = (
    exp.Select, exp.Subquery, exp.Union, exp.Intersect, exp.Except, exp.With, exp.CTE, exp.Values,
    exp.From, exp.Join, exp.Table, exp.TableAlias, exp.Alias, exp.Column, exp.Identifier, exp.Star,
    exp.Where, exp.Group, exp.Having, exp.Order, exp.Ordered, exp.Limit, exp.Offset, exp.Distinct,
    exp.Window, exp.WindowSpec, exp.Filter, exp.Tuple, exp.Paren, exp.Literal, exp.Null, exp.Boolean,
    exp.Var, exp.And, exp.Or, exp.Not, exp.EQ, exp.NEQ, exp.GT, exp.GTE, exp.LT, exp.LTE, exp.Is,
    exp.NullSafeEQ, exp.NullSafeNEQ, exp.In, exp.Between, exp.Like, exp.Glob, exp.Escape, exp.Exists,
    exp.Add, exp.Sub, exp.Mul, exp.Div, exp.Mod, exp.Neg, exp.DPipe, exp.Collate, exp.Case, exp.If,
    exp.Cast, exp.DataType, exp.HexString,
)  # fmt: skip

# Functions that compute one value from their arguments and cannot make a small input large.
_FUNCTIONS: Final[tuple[type[exp.Expr], ...]] = (
    exp.Count, exp.Sum, exp.Avg, exp.Min, exp.Max, exp.GroupConcat, exp.Abs, exp.Round, exp.Ceil,
    exp.Floor, exp.Sign, exp.Sqrt, exp.Pow, exp.Ln, exp.Log, exp.Exp, exp.Coalesce, exp.Nullif,
    exp.Least, exp.Greatest, exp.Lower, exp.Upper, exp.Length, exp.Trim, exp.Substring, exp.StrPosition,
    exp.Date, exp.TimeToStr, exp.TsOrDsToTimestamp, exp.TsOrDsToDate, exp.TsOrDsToTime,
    exp.CurrentDate, exp.CurrentTime, exp.CurrentTimestamp, exp.RowNumber, exp.Rank, exp.DenseRank,
    exp.PercentRank, exp.CumeDist, exp.Ntile, exp.Lag, exp.Lead, exp.FirstValue, exp.LastValue,
    exp.NthValue,
)  # fmt: skip

KINDS: Final[dict[str, frozenset[type[exp.Expr]]]] = {
    "sqlite": frozenset(_STRUCTURE + _FUNCTIONS),
}

# Functions that the library keeps by name only.
NAMES: Final[dict[str, frozenset[str]]] = {
    "sqlite": frozenset(
        (
            "DATE TIME DATETIME JULIANDAY UNIXEPOCH STRFTIME TOTAL IIF IFNULL INSTR LTRIM RTRIM SUBSTR TYPEOF "
            "LIKE GLOB SIGN CEIL CEILING FLOOR POWER POW SQRT MOD PI RADIANS DEGREES SIN COS ASIN ACOS ATAN ATAN2 "
            "LOG10 LOG2 TRUNC"
        ).split()
    ),
}

WRITES: Final[tuple[type[exp.Expr], ...]] = (
    exp.Insert, exp.Update, exp.Delete, exp.Merge, exp.Create, exp.Drop, exp.Alter, exp.TruncateTable,
    exp.Attach, exp.Detach, exp.Pragma, exp.Set, exp.Transaction, exp.Commit, exp.Rollback, exp.Into,
    exp.Lock, exp.Copy, exp.Command, exp.Grant, exp.Use, exp.Kill, exp.LoadData, exp.Analyze, exp.Cache,
)  # fmt: skip
"""Kinds that change something; they get a clearer word than "not allowed"."""
