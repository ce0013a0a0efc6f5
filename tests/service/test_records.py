"""The writer thread and the ownership of a data directory, on real records in a folder of their own."""

from __future__ import annotations

import os
import sqlite3
import textwrap
from pathlib import Path

import pytest

from harquel.core.errors import ConfigurationError
from harquel.service.records.ownership import AlreadyRunning, Ownership
from tests.forked import run_harquel

PREPARE = """
    import os, sys
    os.environ["HARQUEL_DATA_DIR"] = sys.argv[1]
    os.environ["DJANGO_SETTINGS_MODULE"] = "harquel.service.settings"
    import django; django.setup()
    from pathlib import Path
    from typing import ClassVar, Literal
    from harquel.contract.events import Happening
    class Tried(Happening):
        texts = ("t",)
        happened: Literal["test"] = "test"
        n: int = 0
    from harquel.core.errors import ConfigurationError
    from harquel.service.records.ownership import bring_up_to_date
    from harquel.service.records.writer import Writer
    from harquel.service.ledger.append import append
    from harquel.service.ledger.models import Entry
    from harquel.service.ledger.verify_ledger import verify_ledger
    records = Path(sys.argv[1]) / "records.db"
"""


def in_django(folder: Path, code: str) -> str:
    """Runs code in a process with Django on that folder; returns what it prints."""
    script = textwrap.dedent(PREPARE) + textwrap.dedent(code)
    done = run_harquel(str(folder), code=script)
    assert done.returncode == 0, done.stderr
    return done.stdout.strip()


def test_many_threads_write_one_chain_in_order(tmp_path: Path) -> None:
    said = in_django(
        tmp_path,
        """
        bring_up_to_date(records)
        from concurrent.futures import ThreadPoolExecutor
        writer = Writer()
        def one(n):
            return writer.do(lambda: append(who=f"w{n % 32}", what=Tried(n=n), texts={"t": str(n)}))
        with ThreadPoolExecutor(32) as pool:
            numbers = list(pool.map(one, range(600)))
        quick = [writer.submit(lambda: append(who="x", what=Tried()), alone=False) for _ in range(100)]
        numbers += [f.result() for f in quick]
        writer.close()
        print(sorted(numbers) == list(range(1, 701)), verify_ledger().intact, verify_ledger().checked)
        """,
    )
    assert said == "True True 700"


def test_a_failing_job_undoes_itself_only_and_says_why(tmp_path: Path) -> None:
    said = in_django(
        tmp_path,
        """
        bring_up_to_date(records)
        writer = Writer()
        def bad():
            append(who="half", what=Tried())
            raise ValueError("broken in the middle")
        futures = [writer.submit(lambda: append(who="good", what=Tried())), writer.submit(bad),
                   writer.submit(lambda: append(who="good", what=Tried()))]
        print([f.result() if not f.exception() else str(f.exception()) for f in futures])
        print(list(Entry.objects.values_list("who", flat=True)), verify_ledger().intact)
        writer.close()
        """,
    )
    assert said.splitlines() == ["[1, 'broken in the middle', 2]", "['good', 'good'] True"]


def test_a_key_creates_once_a_day_and_is_forgotten_after_it(tmp_path: Path) -> None:
    said = in_django(
        tmp_path,
        """
        bring_up_to_date(records)
        import datetime as dt
        from django.utils import timezone
        from harquel.service.access.models import IdempotencyKey, Person, Token
        from harquel.service.idempotency import Once
        from harquel.service.errors import ProblemError
        token = Token.objects.create(person=Person.objects.create(name="Ada"), name="t", digest="d", scopes=[])
        def said(key, body):
            once = Once(token.pk, key, body)
            try:
                return once.earlier(), once.repeated
            except ProblemError as error:
                return error.problem.type
        for n, key in enumerate(["old", "older", "new"]):
            print(said(key, "a"))
            Once(token.pk, key, "a").settle(f"i{n}")
        print(said("old", "a"), said("old", "b"), said(None, "a"))
        day = timezone.now() - dt.timedelta(hours=25)
        IdempotencyKey.objects.exclude(key="new").update(created_at=day)
        print(said("old", "b"), said("new", "a"), IdempotencyKey.objects.count())
        Once(token.pk, "old", "b").settle("i3")
        print(said("old", "b"))
        """,
    )
    assert said.splitlines() == [
        "(None, False)", "(None, False)", "(None, False)", "('i0', True) /problems/key-reused (None, False)",
        "(None, False) ('i2', True) 1", "('i3', True)",
    ]  # fmt: skip


def test_a_scan_is_as_far_as_its_source_says_though_the_records_are_behind(tmp_path: Path) -> None:
    said = in_django(
        tmp_path,
        """
        bring_up_to_date(records)
        import threading
        from harquel.core.scanning import Progress, ScanRun
        from harquel.service.sources.catalogs import ScanRecorder
        from harquel.service.sources.models import StoredScan
        writer = Writer()
        recorder, run = ScanRecorder("quay", writer), ScanRun(1, "first")
        recorder.told(run)
        busy = threading.Event()
        writer.submit(busy.wait)
        run.state, run.progress, run.ended = "done", Progress("values", 60, 60), 1.0
        recorder.told(run)
        stored = StoredScan.objects.get()
        print(stored.state, recorder.as_it_is(StoredScan.objects.get(), None).state)
        print(recorder.as_it_is(StoredScan.objects.get(), ScanRun(2, "full")).state)
        shown = recorder.as_it_is(StoredScan.objects.get(), run)
        print(shown.state, shown.done)
        busy.set()
        writer.close()
        print(StoredScan.objects.get().state)
        """,
    )
    assert said.splitlines() == ["running running", "running", "done 60", "done"]


def test_what_passes_is_heard_after_what_happened_before_it_however_long_that_takes_to_write(tmp_path: Path) -> None:
    said = in_django(
        tmp_path,
        """
        import asyncio
        from concurrent.futures import Future
        from types import SimpleNamespace
        from harquel.service.bus import Bus
        from harquel.service.inquiries.recording import RecordingWatcher
        jobs = []
        def submit(job, alone):
            jobs.append(Future())
            return jobs[-1]
        async def heard(listener):
            await asyncio.sleep(0.01)
            return [listener.get_nowait() for _ in range(listener.qsize())]
        async def listen():
            bus = Bus()
            asked = SimpleNamespace(id="one", asked_by="Ada")
            watcher = RecordingWatcher(asked, SimpleNamespace(submit=submit), bus, lambda: False)
            event = SimpleNamespace(what=None, texts={})
            with bus.listening("one") as listener:
                watcher.durable(event)
                watcher.durable(event)
                watcher.passing("SEL")
                jobs[0].set_result(1)
                watcher.passing("ECT")
                print(await heard(listener))
                jobs[1].set_result(2)
                watcher.passing(" 1")
                print(await heard(listener))
                watcher.durable(event)
                watcher.passing("lost")
                watcher.durable(event)
                jobs[2].set_result(3)
                jobs[3].set_result(4)
                print(await heard(listener))
        asyncio.run(listen())
        """,
    )
    assert said.splitlines() == ["[None]", "[None, 'SELECT', ' 1']", "[None, None]"]


def test_whatever_jobs_fail_and_whoever_else_writes_the_chain_holds_what_was_promised(tmp_path: Path) -> None:
    """Entries are put off to the end of a transaction; here half of the jobs fail with some put off already, while
    another program writes to the same records, as a token is made where the service runs.
    """
    said = in_django(
        tmp_path,
        """
        bring_up_to_date(records)
        import json, multiprocessing, random, sqlite3
        from concurrent.futures import ThreadPoolExecutor
        from django.db import transaction
        def elsewhere():
            for n in range(40):
                with transaction.atomic():
                    append(who="other", what=Tried(n=-n))
                    append(who="other", what=Tried(n=-n))
        other = multiprocessing.get_context("fork").Process(target=elsewhere)
        other.start()
        writer, chance = Writer(), random.Random(5)
        def job(n, fails, count):
            def run():
                found = [append(who="here", what=Tried(n=n), texts={"t": str(n)}) for _ in range(count)]
                if fails:
                    raise ValueError("half-way")
                return found
            return run
        jobs = [job(n, chance.random() < 0.5, chance.randrange(4)) for n in range(600)]
        def given(pool, n, job):
            # Some batches hold only what may be done twice, some not, and some fail as a whole.
            if n % 100 < 60:
                return pool.submit(writer.do, job, twice=True)
            return writer.submit(job, alone=n % 100 < 95)
        with ThreadPoolExecutor(8) as pool:
            futures = [given(pool, n, job) for n, job in enumerate(jobs)]
        promised = {seq: n for n, f in enumerate(futures) if not f.exception() for seq in f.result()}
        other.join()
        writer.close()
        rows = sqlite3.connect(records).execute("SELECT seq, who, body FROM ledger_entry ORDER BY seq").fetchall()
        kept = {seq: json.loads(body)["facts"]["n"] for seq, who, body in rows if who == "here"}
        print(kept == promised, len(kept) > 200, len(rows) == len(kept) + 80, verify_ledger().intact, other.exitcode)
        """,
    )
    assert said == "True True True True 0"


def test_an_end_that_can_never_be_stored_keeps_no_other_back(tmp_path: Path) -> None:
    """A disk that is full is waited for; what the records refuse for good is left to the next start."""
    said = in_django(
        tmp_path,
        """
        import datetime, logging, time
        bring_up_to_date(records)
        from django.db import IntegrityError, OperationalError
        from harquel.core.domain.inquiry import Inquiry
        from harquel.service.inquiries import unkept
        stored, full = [], [True]
        def store(inquiry):
            if inquiry.id == "never":
                raise IntegrityError("no such thing")
            if full[0]:
                raise OperationalError("database or disk is full")
            stored.append(inquiry.id)
        unkept.store_end = store
        writer = Writer()
        for key in ("never", "later"):
            asked = Inquiry(id=key, state="working", source="s", question="q", asked_by="a",
                            asked_at=datetime.datetime.now(datetime.UTC))
            unkept.keep_for_later(asked, OperationalError("database or disk is full"), writer)
        time.sleep(1.3)
        before = list(stored)
        full[0] = False
        for _ in range(50):
            if not unkept._unkept:
                break
            time.sleep(0.1)
        print(before, stored, list(unkept._unkept))
        """,
    )
    assert said.splitlines()[-1] == "[] ['later'] []"


def test_a_result_is_told_after_its_commit(tmp_path: Path) -> None:
    said = in_django(
        tmp_path,
        """
        bring_up_to_date(records)
        import sqlite3
        writer = Writer()
        seen = []
        for n in range(20):
            number = writer.do(lambda: append(who="x", what=Tried()))
            other = sqlite3.connect(records)
            seen.append(other.execute("SELECT MAX(seq) FROM ledger_entry").fetchone()[0] >= number)
            other.close()
        print(all(seen))
        writer.close()
        """,
    )
    assert said == "True"


def test_records_are_copied_before_an_upgrade_and_newer_ones_are_refused(tmp_path: Path) -> None:
    in_django(tmp_path, "bring_up_to_date(records)")
    with sqlite3.connect(tmp_path / "records.db") as connection:
        connection.execute("DELETE FROM django_migrations WHERE app = 'sessions'")
        connection.execute("DROP TABLE django_session")
    connection.close()
    in_django(tmp_path, "bring_up_to_date(records)")
    assert (tmp_path / "records.before-upgrade.db").stat().st_size > 0
    with sqlite3.connect(tmp_path / "records.db") as connection:
        connection.execute(
            "INSERT INTO django_migrations (app, name, applied) VALUES ('ledger', '0099_future', '2030-01-01')"
        )
    connection.close()
    said = in_django(
        tmp_path,
        """
        try:
            bring_up_to_date(records)
        except ConfigurationError as error:
            print(error)
        """,
    )
    assert "newer Harquel (ledger.0099_future)" in said


def test_the_session_key_is_made_once_and_is_for_its_owner_only(tmp_path: Path) -> None:
    first = in_django(tmp_path, "from django.conf import settings; print(settings.SECRET_KEY)")
    assert in_django(tmp_path, "from django.conf import settings; print(settings.SECRET_KEY)") == first
    assert (tmp_path / "session.key").stat().st_mode & 0o777 == 0o600


def test_a_data_directory_has_one_owner(tmp_path: Path) -> None:
    first = Ownership(tmp_path)
    with pytest.raises(AlreadyRunning, match=str(os.getpid())):
        Ownership(tmp_path)
    first.release()
    Ownership(tmp_path).release()
    assert tmp_path.stat().st_mode & 0o777 == 0o700


def test_a_place_that_cannot_be_used_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with pytest.raises(ConfigurationError, match="cannot be used"):
        Ownership(tmp_path / "file")
