"""The command line: start the program, bring plans in and out, and compute on a plan file without a database."""

import json
import os
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any
from uuid import UUID

import typer

from stonechat.errors import Clash, InvalidInput, NotFound, StonechatError, Unavailable, UnreadableFile

if TYPE_CHECKING:
    from stonechat.core.plan.plan import Plan
    from stonechat.services.workspace import Workspace
    from stonechat.settings import Settings

# each command imports what it needs when it runs: reading all of the program takes seconds

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Stonechat plans the load of a self-supported ultra-distance bicycle race, in minutes of race time.",
)
Json = Annotated[bool, typer.Option("--json", help="Print JSON instead of a short text.")]
Port = Annotated[int | None, typer.Option(min=0, max=65_535, help="Loopback port; 0: any that is free.")]
_MIGRATION_S = 3_600.0  # s that one statement of a migration may take
VariantId = Annotated[str, typer.Option("--variant", help="Which variant; the plan's first where not given.")]
PlanFile = Annotated[Path, typer.Argument(help="An exported plan (JSON).", show_default=False)]


def main() -> None:
    """Run the command line; an error is one sentence on stderr and status 1 (2 for a file or value at fault)."""
    try:
        app()
    except StonechatError as exc:
        typer.echo(exc.message, err=True)
        sys.exit(2 if isinstance(exc, InvalidInput) else 1)


@contextmanager
def _database(settings: "Settings", *, alone: bool = False) -> Iterator[str]:
    """Give the address of the database: the one in the settings, else the private cluster's, running meanwhile."""
    from stonechat.cluster import running_cluster

    folder = _own_folder(settings)
    if folder is None:
        yield settings.database_url
        return
    with running_cluster(folder, say=_say, alone=alone) as url:
        yield url


def _own_folder(settings: "Settings") -> Path | None:
    """Return the folder of the private cluster, or None where the database is named in the settings."""
    from stonechat.cluster import default_data_dir

    return None if settings.database_url else settings.data_dir or default_data_dir()


def _bring_up_to_date(url: str) -> None:
    from stonechat.db.migrate import migrate as run_migrations
    from stonechat.db.session import make_engine

    engine = make_engine(url, patience=_MIGRATION_S)
    try:
        run_migrations(engine)
    finally:
        engine.dispose()


@contextmanager
def _workspace() -> Iterator["tuple[Workspace, str]"]:
    """Open the store, brought to its newest state."""
    from stonechat.db.session import Store, make_engine
    from stonechat.jobs.app import defer_run, make_queue
    from stonechat.services.workspace import Workspace
    from stonechat.settings import read_settings

    settings = read_settings()
    with _database(settings) as url:
        _bring_up_to_date(url)
        engine = make_engine(url)
        queue = make_queue(url)
        try:
            with queue.open():
                store = Store(engine)
                place = str(_own_folder(settings) or "a database of its own, named in STONECHAT_DATABASE_URL")
                yield (
                    Workspace(store=store, settings=settings, place=place, defer_run=lambda run: defer_run(queue, run)),
                    url,
                )
        finally:
            engine.dispose()


def _say(words: str) -> None:
    with suppress(OSError):  # a terminal that was closed
        typer.echo(words, err=True)


def _stop_on_signal() -> None:
    """Let a polite kill, and a terminal that is closed, unwind like Ctrl-C, so that all the rest stops too."""

    def leave(*_: object) -> None:
        raise SystemExit(0)

    signal.signal(signal.SIGTERM, leave)
    if signal.getsignal(signal.SIGHUP) is not signal.SIG_IGN:  # else whoever started it wants it to stay
        # the web server knows how to end at the other signal
        signal.signal(signal.SIGHUP, lambda *_: signal.raise_signal(signal.SIGTERM))


@app.command()
def demo(
    port: Port = None,
) -> None:
    """Start the database, a worker and the program with the demo plan, on loopback."""
    from stonechat.program.keeping import looked_after
    from stonechat.program.serving import serve as serve_pages
    from stonechat.services import exchange

    _stop_on_signal()
    with ExitStack() as stack:
        workspace, url = stack.enter_context(_workspace())
        exchange.ensure_past_race(workspace)
        exchange.ensure_demo(workspace)
        stack.enter_context(looked_after(url, _own_folder(workspace.settings), say=_say))
        _until_told(lambda: serve_pages(workspace, port=port, say=typer.echo))


@app.command()
def serve(
    port: Port = None,
) -> None:
    """Start the program without demo data; `stonechat work` beside it does the packing."""
    from stonechat.program.serving import serve as serve_pages

    _stop_on_signal()
    with _workspace() as (workspace, _):
        _until_told(lambda: serve_pages(workspace, port=port, say=typer.echo))


def _until_told(run: Callable[[], None]) -> None:
    try:
        run()
    except KeyboardInterrupt:
        typer.echo("Stopped.")


@app.command()
def work(
    parent: Annotated[int, typer.Option(hidden=True)] = 0,
    left_behind: Annotated[Path | None, typer.Option(hidden=True)] = None,
) -> None:
    """Run queued packings; start as many as you have machines."""
    from stonechat.db.session import Store, make_engine
    from stonechat.jobs.app import defer_run, make_queue
    from stonechat.services.workspace import Workspace
    from stonechat.settings import read_settings
    from stonechat.worker.main import work as run_worker

    if parent:
        threading.Thread(target=_end_with_parent, args=(parent, left_behind), daemon=True).start()
    settings = read_settings()
    with _database(settings) as url:
        engine = make_engine(url)
        _bring_up_to_date(url)
        queue = make_queue(url)
        with queue.open():
            workspace = Workspace(store=Store(engine), settings=settings, defer_run=lambda run: defer_run(queue, run))
            _until_told(lambda: run_worker(workspace, url))


def _end_with_parent(parent: int, left_behind: Path | None) -> None:
    """End when the program that started this worker is gone, and stop the database that it cannot stop any more."""
    from stonechat.cluster import stop_if_unused

    while os.getppid() == parent:
        time.sleep(1.0)
    try:
        if left_behind is not None:
            stop_if_unused(left_behind)
    finally:
        os._exit(0)  # a solver that computes would keep the process for as long as it likes


@app.command()
def migrate() -> None:
    """Bring the database to the newest state."""
    with _workspace():
        typer.echo("The database is up to date.")


@app.command("import")
def import_(
    file: Annotated[
        Path, typer.Argument(help="A course (GPX, TCX, FIT, GeoJSON) or an exported plan.", show_default=False)
    ],
    surface: Annotated[str, typer.Option(help="Surface of the course where it is not known.")] = "tarmac",
    line: Annotated[int, typer.Option(min=0, help="Which line of the file, from 1; 0: the longest.")] = 0,
    gaps: Annotated[str, typer.Option(help="join, or longest: only the longest unbroken part.")] = "join",
    reverse: Annotated[bool, typer.Option(help="Ride it the other way round.")] = False,
    flat: Annotated[float | None, typer.Option(help="One height in m everywhere, for a file without.")] = None,
    mine: Annotated[bool, typer.Option("--mine", help="An exported plan's things go onto the shelf.")] = False,
) -> None:
    """Make a new plan from a file."""
    from stonechat.formats.course_file import CourseChoice
    from stonechat.services import exchange

    data = _read(file)
    choice = CourseChoice(line=line - 1 if line else None, gaps=gaps, reverse=reverse, flat=flat)
    with _workspace() as (workspace, _):
        imported = exchange.import_file(workspace, data, surface=surface, choice=choice, mine=mine)
        typer.echo(f"{imported.plan_id}  {imported.note}")


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="A file that is not there yet.", show_default=False)]) -> None:
    """Write all that is kept, with every undo history, to one file; the program may run meanwhile."""
    from stonechat.program.backup import write_backup
    from stonechat.settings import read_settings

    with _database(read_settings()) as url:
        _bring_up_to_date(url)
        made = write_backup(url, file)
    typer.echo(
        f"{file} holds all plans ({made.plans}), as they are now. Your routes are in it: keep it as you keep those."
    )


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="What stonechat backup wrote.", show_default=False)],
    replace: Annotated[bool, typer.Option("--replace", help="Also where there are plans, which then go.")] = False,
) -> None:
    """Put what a backup holds in the place of what is there; stop the program first."""
    from stonechat.program.backup import read_manifest, restore_backup
    from stonechat.settings import read_settings

    settings = read_settings()
    read_manifest(file)  # what cannot be used is said before anything is started
    with _database(settings, alone=True) as url:
        found = restore_backup(url, file, replace=replace)
    typer.echo(f"All plans ({found.plans}) are back, as they were on {found.made_at}.")


@app.command()
def doctor(as_json: Json = False) -> None:
    """Look the installation and the data over, change nothing, say what to do; status 1 where something is wrong."""
    from stonechat.program.doctor import look_over
    from stonechat.settings import read_settings

    settings = read_settings()
    found = look_over(_own_folder(settings), settings.database_url)
    report = {"findings": [asdict(finding) for finding in found]}
    _print(report, as_json, [f"{'fine' if f.fine else 'WRONG':6} {f.what}: {f.sentence}" for f in found])
    if not all(finding.fine for finding in found):
        raise typer.Exit(1)


@app.command("delete-everything")
def delete_everything(
    yes: Annotated[bool, typer.Option("--yes", help="Say that you mean it.")] = False,
) -> None:
    """Delete every plan, the shelf and every waiting file for good."""
    from stonechat.services import custody

    with _workspace() as (workspace, _):
        custody.delete_everything(workspace, custody.WORD if yes else "")
    typer.echo("Everything is deleted. What is left in the data folder holds nothing of yours; you may delete it too.")


@app.command("export-all")
def export_all(
    file: Annotated[Path, typer.Argument(help="A ZIP file that is not there yet.", show_default=False)],
) -> None:
    """Write every plan, course and kit as open files into one ZIP."""
    from stonechat.services import custody

    if file.exists():
        raise Clash(f"{file} is there already and was left as it is. Name a file that is not there yet.")
    with _workspace() as (workspace, _):
        data = custody.everything_as_files(workspace)
    try:
        file.touch(mode=0o600)
        file.write_bytes(data)
    except OSError as exc:
        raise Unavailable(f"{file} cannot be written: {exc.strerror}. Name another place.") from exc
    typer.echo(f"{file} holds everything as files.")


@app.command()
def export(plan: Annotated[str, typer.Argument(help="Name or id of a plan.", show_default=False)]) -> None:
    """Write a plan as JSON to standard output."""
    from stonechat.services import exchange, plans
    from stonechat.services.history import open_plan

    with _workspace() as (workspace, _):
        heads = plans.list_plans(workspace)
        wanted = [head.id for head in heads if plan in (head.name, str(head.id))]
        if not wanted:
            raise NotFound(f"There is no plan “{plan}”. There are: {', '.join(head.name for head in heads) or 'none'}.")
        typer.echo(exchange.export_json(open_plan(workspace, UUID(str(wanted[0])))).decode())


@app.command()
def schema() -> None:
    """Print the JSON Schema of a plan file."""
    from stonechat.formats.plan_json import json_schema

    typer.echo(json.dumps(json_schema(), indent=2))


def _read(file: Path) -> bytes:
    try:
        return file.read_bytes()
    except OSError as exc:
        raise UnreadableFile(f"{file} cannot be read: {exc.strerror}. Name another file.") from exc


def _plan_and_variant(file: Path, variant: str) -> "tuple[Plan, str]":
    from stonechat.formats.plan_json import read_plan

    plan = read_plan(_read(file))
    return plan, plan.variant(variant).id if variant else plan.variants[0].id


def _print(report: dict[str, Any], as_json: bool, sentences: list[str]) -> None:
    typer.echo(json.dumps(report, indent=2, ensure_ascii=False) if as_json else "\n".join(sentences))


@app.command()
def ride(file: PlanFile, as_json: Json = False, variant: VariantId = "") -> None:
    """Ride a plan file: timetable, prices, minutes by cause."""
    from stonechat.services import analysis

    report = analysis.ride_report(*_plan_and_variant(file, variant))
    _print(
        report,
        as_json,
        [
            f"finish {report['finish']}, {report['finish_h']:.2f} h, of it moving {report['moving_h']:.2f} h",
            f"{report['minutes_per_kg']:.1f} min per kg, {report['minutes_per_100cm2']:.1f} min per 100 cm²",
            *(f"{stop['arrival']}  {stop['name']}" for stop in report["stops"]),
        ],
    )


@app.command()
def odds(
    file: PlanFile,
    as_json: Json = False,
    variant: VariantId = "",
    races: Annotated[int, typer.Option(min=20, max=100_000, help="How many races.")] = 1_000,
) -> None:
    """Ride a plan file many times: the spread of the finish, the odds of doors and cut-offs."""
    from stonechat.services import analysis

    plan, variant_id = _plan_and_variant(file, variant)
    report = analysis.odds_report(plan, variant_id, races)
    finish = report["finish_h"]
    _print(
        report,
        as_json,
        [
            f"finish after {finish['p5']:.1f}, {finish['p50']:.1f}, {finish['p95']:.1f} h "
            f"(5, 50, 95 % of {races:,} races)",
            *(f"{stop['name']}: open {100 * stop['open']:.0f} %" for stop in report["stops"]),
        ],
    )


@app.command()
def load(
    file: PlanFile,
    as_json: Json = False,
    variant: VariantId = "",
    seconds: Annotated[float, typer.Option(min=0.1, max=3600, help="Longest time to search.")] = 30.0,
) -> None:
    """Pack a plan file as well as can be proven in the time given."""
    from stonechat.services import analysis

    plan, variant_id = _plan_and_variant(file, variant)
    with _others_on_stderr():
        report = analysis.load_report(plan, variant_id, seconds)
    found = report["objective_min"] is not None
    _print(
        report,
        as_json,
        [
            f"{report['status']}: {report['objective_min']:.1f} min, gap {100 * report['gap']:.2f} %"
            if found
            else f"{report['status']}: {' '.join(report['broken_rules'])}",
            *(f"{thing}  {place}" for thing, place in report["assignment"].items()),
        ],
    )


@contextmanager
def _others_on_stderr() -> Iterator[None]:
    """Send what libraries print to stderr (the solver's banner), so that stdout holds the report alone."""
    sys.stdout.flush()
    kept = os.dup(1)
    os.dup2(2, 1)
    try:
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)


@app.command()
def supply(
    file: PlanFile,
    as_json: Json = False,
    variant: VariantId = "",
    every_stop: Annotated[bool, typer.Option("--every-stop", help="Ride past none, whatever that costs.")] = False,
) -> None:
    """Say what to leave every stop of a plan file with, and which to ride past."""
    from stonechat.services import supplying

    report = supplying.supply_report(*_plan_and_variant(file, variant), every_stop=every_stop)
    _print(report, as_json, [_supply_line(entry) for entry in report["stops"]] + report["short"])


def _supply_line(entry: dict[str, Any]) -> str:
    """Return a stop as it is written on a note for the bars."""
    if not entry["used"]:
        return f"{entry['name']}: ride past"
    took = [f"{entry['water_l']:.1f} l"] if entry["fills_water"] else []
    took += [f"buy {entry['bought_kcal']:,.0f} kcal"] if entry["buys_food"] else []
    time = sum(minutes for part, minutes in entry["minutes"].items() if part != "rest")
    return f"{entry['name']}: {', '.join(took) or 'nothing'}" + (f" ({time:.0f} min)" if time else "")


@app.command()
def night(file: PlanFile, as_json: Json = False, variant: VariantId = "") -> None:
    """Say how warm every rest of a plan file is, in what is aboard."""
    from stonechat.services import night as night_service

    report = night_service.night_report(*_plan_and_variant(file, variant))
    _print(report, as_json, night_service.night_sentences(report))


@app.command()
def charge(file: PlanFile, as_json: Json = False, variant: VariantId = "") -> None:
    """Say what becomes of every battery of a plan file, and what goes flat where."""
    from stonechat.services import charging

    report = charging.charge_report(*_plan_and_variant(file, variant))
    _print(report, as_json, charging.charge_sentences(report))


@app.command()
def mend(file: PlanFile, as_json: Json = False, variant: VariantId = "") -> None:
    """Say what may fail on the race of a plan file, what answers it, and what each spare is worth."""
    from stonechat.services import mending

    report = mending.mend_report(*_plan_and_variant(file, variant))
    _print(report, as_json, mending.mend_sentences(report))


@app.command()
def film(file: PlanFile, as_json: Json = False, variant: VariantId = "") -> None:
    """Say what every carrier of a plan file holds on every leg."""
    from stonechat.services import supplying

    report = supplying.film_report(*_plan_and_variant(file, variant))
    legs = report["legs"]
    _print(
        report,
        as_json,
        [
            f"{key} is fullest from {entry['from']} to {entry['to']}: {100 * entry['fill']:.0f} %"
            for key, entry in report["deciding_legs"].items()
        ]
        + [f"{leg['from']} to {leg['to']}: {leg['mass_kg']:.1f} kg" for leg in legs],
    )


@app.command()
def check(file: PlanFile, as_json: Json = False, variant: VariantId = "") -> None:
    """Judge a plan file by every check."""
    from stonechat.services import analysis

    report = analysis.check_report(*_plan_and_variant(file, variant))
    _print(
        report, as_json, [f"{entry['state']:6}  {entry['title']}: {entry['sentence']}" for entry in report["checks"]]
    )


@app.command()
def kit(
    file: Annotated[Path, typer.Argument(help="A kit as CSV or XLSX.", show_default=False)], as_json: Json = False
) -> None:
    """Read a kit table: what each row is taken for, and what stays aside."""
    from stonechat.formats.kit_report import kit_report, report_sentences

    report = kit_report(_read(file))
    _print(report, as_json, report_sentences(report))


@app.command()
def warm() -> None:
    """Compile the ride once, so that the first page need not wait; the result is kept on disk."""
    from stonechat.demo.corvane import demo_plan
    from stonechat.services import analysis

    plan = demo_plan()
    analysis.check_report(plan, plan.variants[0].id)
    analysis.odds_report(plan, plan.variants[0].id, 20)
    typer.echo("Compiled.")
