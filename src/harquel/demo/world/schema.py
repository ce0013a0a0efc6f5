"""The tables of the demo world, described without reference to an engine; loaders render them."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

Kind = Literal["integer", "text", "real", "decimal", "boolean", "date", "timestamp"]


@dataclass(frozen=True)
class Column:
    """One column; `references` is "table.column", `check` a condition in portable SQL."""

    name: str
    kind: Kind
    null: bool = False
    references: str | None = None
    check: str | None = None
    comment: str = ""


@dataclass(frozen=True)
class Table:
    """One table; its key is `id` unless `key` says otherwise. `order` is load order by position."""

    name: str
    comment: str
    columns: tuple[Column, ...]
    key: tuple[str, ...] = ("id",)
    unique: tuple[tuple[str, ...], ...] = ()
    indexes: tuple[tuple[str, ...], ...] = field(default=())


def _id() -> Column:
    return Column("id", "integer")


def _ref(name: str, table: str, null: bool = False, comment: str = "") -> Column:
    return Column(name, "integer", null=null, references=f"{table}.id", comment=comment)


_SAILING_COLUMNS = (
    _id(),
    _ref("route_id", "route"),
    _ref("vessel_id", "vessel"),
    Column("scheduled_departure", "timestamp", comment="UTC"),
    Column("actual_departure", "timestamp", null=True, comment="UTC; null until it happens"),
    Column("scheduled_arrival", "timestamp", comment="UTC"),
    Column("actual_arrival", "timestamp", null=True, comment="UTC; null until it happens"),
    Column("status", "text", check="status IN ('S', 'D', 'A', 'X')", comment="one letter"),
    Column("cancel_reason", "text", null=True),
)

TABLES: tuple[Table, ...] = (
    Table(
        "harbour",
        "harbours that the ferries call at",
        (
            _id(),
            Column("name", "text"),
            Column("code", "text"),
            Column("island", "text"),
            Column("latitude", "real"),
            Column("longitude", "real"),
            Column("has_ramp", "boolean", comment="cars can drive on"),
        ),
        unique=(("name",), ("code",)),
    ),
    Table(
        "berth",
        "places to moor in a harbour",
        (
            _id(),
            _ref("harbour_id", "harbour"),
            Column("label", "text"),
            Column("max_length_m", "real", check="max_length_m > 0"),
        ),
        unique=(("harbour_id", "label"),),
    ),
    Table(
        "vessel",
        "the ships",
        (
            _id(),
            Column("code", "text"),
            Column("name", "text"),
            Column("built_year", "integer"),
            Column("length_m", "real"),
            Column("passenger_capacity", "integer"),
            Column("car_capacity", "integer"),
            Column("status", "text", check="status IN ('active', 'retired')"),
        ),
        unique=(("code",), ("name",)),
    ),
    Table(
        "route",
        "connections between two harbours",
        (
            _id(),
            Column("code", "text"),
            _ref("from_harbour_id", "harbour"),
            _ref("to_harbour_id", "harbour"),
            Column("distance_nm", "real"),
            Column("active", "boolean"),
        ),
        unique=(("code",),),
    ),
    Table(
        "sailing",
        "single crossings, planned and made",
        _SAILING_COLUMNS,
        indexes=(("scheduled_departure",), ("route_id",), ("vessel_id",)),
    ),
    Table(
        "sailing_archive",
        "crossings of 2023 and 2024",
        _SAILING_COLUMNS,
    ),
    Table(
        "fare",
        "price list",
        (
            _id(),
            _ref("route_id", "route"),
            Column("fare_class", "text"),
            Column("season", "text", check="season IN ('low', 'high')"),
            Column("amount_cents", "integer", check="amount_cents >= 0"),
            Column("valid_from", "date"),
            Column("valid_to", "date"),
        ),
    ),
    Table(
        "customer",
        "people who book",
        (
            _id(),
            Column("name", "text"),
            Column("email", "text"),
            Column("phone", "text", null=True),
            _ref("home_harbour", "harbour"),
            Column("joined_on", "date"),
            Column("is_staff", "boolean"),
            Column("deleted_at", "timestamp", null=True, comment="soft delete"),
        ),
    ),
    Table(
        "booking",
        "bookings of a customer on a sailing",
        (
            _id(),
            _ref("customer_id", "customer"),
            _ref("sailing_id", "sailing"),
            Column("booked_at", "timestamp"),
            Column("channel", "text", null=True),
            Column("status", "text", check="status IN ('confirmed', 'cancelled', 'no_show')"),
            Column("total_cents", "integer", check="total_cents >= 0"),
        ),
        indexes=(("sailing_id",), ("customer_id",), ("booked_at",)),
    ),
    Table(
        "booking_item",
        "what a booking consists of",
        (
            _id(),
            _ref("booking_id", "booking"),
            Column("kind", "text", check="kind IN ('foot', 'car', 'van', 'bicycle', 'animal')"),
            Column("quantity", "integer", check="quantity > 0"),
            Column("amount_cents", "integer"),
        ),
        indexes=(("booking_id",),),
    ),
    Table(
        "payment",
        "money received for a booking",
        (
            _id(),
            _ref("booking_id", "booking"),
            Column("paid_at", "timestamp"),
            Column("amount_eur", "decimal"),
            Column("method", "text"),
            Column("refunded_at", "timestamp", null=True),
        ),
        indexes=(("booking_id",),),
    ),
    Table(
        "incident",
        "what went wrong on a sailing",
        (
            _id(),
            _ref("sailing_id", "sailing"),
            Column("reported_at", "timestamp"),
            Column("category", "text"),
            Column("severity", "integer", check="severity BETWEEN 1 AND 5"),
            Column("note", "text"),
        ),
    ),
    Table(
        "weather_reading",
        "weather at a harbour, every three hours",
        (
            _id(),
            _ref("harbour_id", "harbour"),
            Column("measured_at", "timestamp"),
            Column("wind_kn", "real"),
            Column("gust_kn", "real"),
            Column("wave_m", "real"),
            Column("visibility_km", "real"),
        ),
        indexes=(("harbour_id", "measured_at"),),
    ),
    Table(
        "crew_member",
        "people who work on board",
        (
            _id(),
            Column("name", "text"),
            Column("rank", "text"),
            _ref("manager_id", "crew_member", null=True),
            Column("hired_on", "date"),
            Column("left_on", "date", null=True),
            Column("phone", "text", null=True),
        ),
    ),
    Table(
        "crew_shift",
        "who worked on which sailing",
        (
            _ref("crew_member_id", "crew_member"),
            _ref("sailing_id", "sailing"),
            Column("role", "text"),
        ),
        key=("crew_member_id", "sailing_id"),
        indexes=(("sailing_id",),),
    ),
    Table(
        "fuel_log",
        "fuel taken on",
        (
            _id(),
            _ref("vessel_id", "vessel"),
            Column("logged_at", "timestamp"),
            Column("litres", "real"),
            Column("price_per_litre_eur", "decimal"),
            Column("odometer_nm", "real"),
        ),
    ),
    Table(
        "maintenance_order",
        "work on a vessel",
        (
            _id(),
            _ref("vessel_id", "vessel"),
            Column("opened_on", "date"),
            Column("closed_on", "date", null=True),
            Column("kind", "text"),
            Column("cost_cents", "integer"),
            Column("order", "text", comment="what is to be done; a reserved word"),
        ),
    ),
)

# The dashboard. Passengers and revenue are summed per sailing first: joining items beside bookings
# would count money twice.
VIEWS: dict[str, str] = {
    "route_day": """
CREATE VIEW route_day AS
SELECT r.code AS route,
       DATE(s.scheduled_departure) AS day,
       COUNT(*) AS sailings,
       SUM(CASE WHEN s.actual_departure IS NOT NULL THEN 1 ELSE 0 END) AS departed,
       SUM(CASE WHEN s.status = 'X' THEN 1 ELSE 0 END) AS cancelled,
       SUM(CASE WHEN s.actual_departure <= {on_time_limit} THEN 1 ELSE 0 END) AS punctual,
       COALESCE(SUM(p.passengers), 0) AS passengers,
       COALESCE(SUM(m.cents), 0) / 100.0 AS revenue_eur
FROM sailing AS s
JOIN route AS r ON r.id = s.route_id
LEFT JOIN (
    SELECT b.sailing_id, SUM(i.quantity) AS passengers
    FROM booking AS b JOIN booking_item AS i ON i.booking_id = b.id
    WHERE b.status = 'confirmed' AND i.kind = 'foot'
    GROUP BY b.sailing_id
) AS p ON p.sailing_id = s.id
LEFT JOIN (
    SELECT b.sailing_id, SUM(b.total_cents) AS cents
    FROM booking AS b JOIN customer AS c ON c.id = b.customer_id
    WHERE b.status = 'confirmed' AND NOT c.is_staff
    GROUP BY b.sailing_id
) AS m ON m.sailing_id = s.id
GROUP BY r.code, DATE(s.scheduled_departure)
""",
}
