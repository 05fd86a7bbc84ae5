"""What all tests share: settings, a private database, the program over it, a demo plan evaluated once."""

import shutil
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from sqlalchemy import Engine, text
from xdist.remote import Producer
from xdist.scheduler import LoadFileScheduling

from stonechat.cluster import running_cluster
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.late import LateTable, late_table
from stonechat.core.plan.plan import Plan
from stonechat.db.migrate import migrate
from stonechat.db.session import Store, make_engine
from stonechat.demo.corvane import demo_plan
from stonechat.services import exchange
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.work import perform
from stonechat.services.working import FAMILIES
from stonechat.services.workspace import Workspace
from stonechat.settings import Settings
from stonechat.web.app import create_app
from tests.programs import reachable

settings.register_profile(
    "ci", derandomize=True, deadline=None, max_examples=60, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("ci")


@pytest.hookimpl(tryfirst=True)
def pytest_configure(config: pytest.Config) -> None:
    """Keep what these tests write apart from pytest's usual folder, which every new run shuts to other users again.

    The database's server is another user where root runs the tests: the start of a second run would end it.
    """
    if not config.option.basetemp:
        config.option.basetemp = str(Path(tempfile.mkdtemp(prefix="stonechat-tests-")) / "base")
        config.add_cleanup(lambda: shutil.rmtree(Path(config.option.basetemp).parent, ignore_errors=True))


class BrowserFirst(LoadFileScheduling):
    """Give a process whole files, and one of them all files of the browser: one program and one browser are started."""

    def _split_scope(self, nodeid: str) -> str:
        browser = "tests/browser/"
        return browser if nodeid.startswith(browser) else super()._split_scope(nodeid)


def pytest_xdist_make_scheduler(config: pytest.Config, log: Producer) -> BrowserFirst:
    """Hand tests out so."""
    return BrowserFirst(config, log)


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Begin with the files that take minutes, so that both processes end together; their order is by chance else."""
    items.sort(key=lambda item: next((k for k, part in enumerate(_LONGEST) if part in item.nodeid), len(_LONGEST)))


_LONGEST = ("tests/browser/", "tests/faults/", "tests/test_cli", "tests/web/", "tests/sense/", "tests/core/checks/")


@pytest.fixture(scope="session")
def demo() -> Plan:
    """The demo plan."""
    return demo_plan()


@pytest.fixture(scope="session")
def demo_evaluation(demo: Plan) -> Evaluation:
    """The demo plan's first variant, ridden and judged."""
    return evaluate(demo, "a")


@pytest.fixture(scope="session")
def demo_late(demo_evaluation: Evaluation) -> LateTable:
    """Arrivals of one who is late on that variant; some seconds of work."""
    return late_table(demo_evaluation.ridden)


@pytest.fixture(scope="session")
def cluster_url(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Address of a database of the tests' own."""
    folder = reachable(tmp_path_factory.mktemp("cluster"))
    with running_cluster(folder, durable=False) as url:
        yield url


@pytest.fixture
def own_database(cluster_url: str) -> Iterator[str]:
    """Address of an empty database of the test's own, which it may break."""
    admin = make_engine(cluster_url).execution_options(isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text("drop database if exists its_own with (force)"))
        connection.execute(text("create database its_own"))
    yield cluster_url.replace("///stonechat", "///its_own")
    with admin.connect() as connection:
        connection.execute(text("drop database its_own with (force)"))
    admin.dispose()


@pytest.fixture(scope="session")
def engine(cluster_url: str) -> Iterator[Engine]:
    """A migrated database."""
    made = make_engine(cluster_url)
    migrate(made)
    yield made
    made.dispose()


@pytest.fixture
def workspace(engine: Engine) -> Workspace:
    """A workspace over an empty database; a packing runs at once, in place of a worker."""
    with engine.begin() as connection:
        connection.execute(text("truncate plan, course, plan_step, run, upload, shelf_item, commit_mark cascade"))
    store, chosen = Store(engine), Settings(pack_limit_s=20.0)
    plain = Workspace(store=store, settings=chosen)
    return Workspace(store=store, settings=chosen, defer_run=lambda run: perform(plain, FAMILIES, run))


@pytest.fixture
def opened(workspace: Workspace) -> OpenPlan:
    """The demo plan, opened from the database."""
    return open_plan(workspace, exchange.ensure_demo(workspace))


@pytest.fixture
def client(workspace: Workspace) -> Iterator[TestClient]:
    """The program, asked without a browser; an unexpected error answers as it would to a person."""
    with TestClient(
        create_app(workspace),
        base_url="http://127.0.0.1",
        raise_server_exceptions=False,
        follow_redirects=False,
    ) as made:
        yield made


@pytest.fixture(scope="session")
def data_dir(tmp_path_factory: pytest.TempPathFactory) -> Callable[[str], Path]:
    """Make a data folder that the database's own user can reach."""

    def make(name: str) -> Path:
        return reachable(tmp_path_factory.mktemp(name)) / "data"

    return make


@pytest.fixture
def data_folder() -> Path:
    """Sample files."""
    return Path(__file__).parent / "data"
