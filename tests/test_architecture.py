"""The shape of the code: calls by keyword, documented quantities, sources that exist, manuals that keep up."""

import ast
import re
import runpy
from collections.abc import Iterator
from pathlib import Path

import pytest

from stonechat.core.plan.features import all_checks
from stonechat.settings import Settings

ROOT = Path(__file__).parent.parent
CORE = sorted((ROOT / "src/stonechat/core").rglob("*.py"))
DOCS = ROOT / "docs"
STATIC = ROOT / "src/stonechat/web/static"


def public_functions() -> Iterator[tuple[Path, ast.FunctionDef]]:
    for path in CORE:
        for node in ast.parse(path.read_text("utf-8")).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                yield path, node


def is_compiled(function: ast.FunctionDef) -> bool:
    return any("njit" in ast.unparse(decorator) for decorator in function.decorator_list)


FUNCTIONS = [pytest.param(path, node, id=f"{path.stem}.{node.name}") for path, node in public_functions()]


@pytest.mark.parametrize(("path", "node"), FUNCTIONS)
def test_a_core_function_with_many_arguments_takes_them_by_keyword(path: Path, node: ast.FunctionDef) -> None:
    if not is_compiled(node):  # compiled code takes them by position
        assert len(node.args.args) <= 4, f"{path.name}:{node.lineno}"


@pytest.mark.parametrize(("path", "node"), FUNCTIONS)
def test_a_core_function_names_every_parameter_and_a_known_unit(path: Path, node: ast.FunctionDef) -> None:
    text = ast.get_docstring(node) or ""
    assert text, f"{path.name}:{node.lineno} has no docstring"
    if path.parent.name == "checks":
        return
    parameters = text.partition("Parameters")[2].partition("Returns")[0]
    for argument in (*node.args.args, *node.args.kwonlyargs):
        assert re.search(rf"\b{argument.arg}\b", parameters), f"{path.name}: {node.name} says nothing of {argument.arg}"
    units = set(re.findall(r"\[([^\]]+)\](?=\s|$)", re.split(r"\n(?:Raises|Notes|References|Examples)\n", text)[0]))
    known = set(re.findall(r"\[([^\]]+)\]", (DOCS / "builders/nomenclature.md").read_text("utf-8")))
    strange = {unit for unit in units if unit.split(" ")[0] not in known and not re.match(r"[A-Z][A-Za-z]+\d", unit)}
    assert strange <= {"min per litre or kg over a limit, in the elastic model", "l by carrier", "m³ by carrier"}, (
        strange
    )


def test_every_source_that_is_cited_is_listed() -> None:
    listed = set(re.findall(r"^\| \[(\w[\w-]+)\]", (DOCS / "builders/references.md").read_text("utf-8"), re.M))
    cited = {
        key for path in CORE for key in re.findall(r"\[((?:[A-Z][a-z]+|[A-Z]+)\d{4}[\d-]*)\]", path.read_text("utf-8"))
    }
    assert cited and cited <= listed


def test_the_models_name_every_source_that_the_core_cites_and_no_other() -> None:
    pattern = r"\[((?:[A-Z][a-z]+|[A-Z]+)\d{4})\]"
    cited = {key for path in CORE for key in re.findall(pattern, path.read_text("utf-8"))}
    assert set(re.findall(pattern, (DOCS / "builders/models/README.md").read_text("utf-8"))) == cited


def test_the_page_of_figures_is_that_of_the_code_and_each_says_its_unit() -> None:
    figures = runpy.run_path(str(ROOT / "scripts/figures.py"))
    page = figures["page"]()
    assert figures["PAGE"].read_text("utf-8") == page, "python scripts/figures.py"
    assert not re.findall(r"\|  \|$", page, re.M)


def test_modules_and_names_of_which_the_docs_speak_exist() -> None:
    source = ROOT / "src/stonechat"
    folders = "core|formats|services|web|render|outside|db|jobs|worker|program|cluster|demo"
    for page in DOCS.rglob("*.md"):
        for path, name in re.findall(rf"`((?:{folders})/[\w/]+)((?:\.\w+)*)`", page.read_text("utf-8")):
            first = name.split(".")[1] if name else "py"
            if first in ("py", "csv", "html", "css", "js"):
                there = (source / f"{path}{name}").exists() or (not name and (source / path).exists())
            else:
                files = [*(source / path).glob("*.py"), source / f"{path}.py"]
                there = any(file.exists() and re.search(rf"\b{first}\b", file.read_text("utf-8")) for file in files)
            assert there or ((source / f"{path}.py").exists() and not name), f"{page.name}: {path}{name}"


def test_the_manual_lists_every_setting_with_its_default_and_words() -> None:
    manual = (DOCS / "users/settings.md").read_text("utf-8")
    for name, field in Settings.model_fields.items():
        assert f"| `STONECHAT_{name.upper()}` |" in manual
        assert field.description in manual
        if isinstance(field.default, int | float):
            assert f"| {field.default:g} |" in manual


def test_every_check_has_a_reason_and_a_code_of_its_own() -> None:
    codes = [check.code for check in all_checks()]
    assert len(codes) == len(set(codes))
    assert all(check.reason.endswith(".") and check.title for check in all_checks())


def test_the_manual_lists_every_check_with_its_reason() -> None:
    manual = (DOCS / "users/checks.md").read_text("utf-8")
    for check in all_checks():
        assert f"| {check.title} | {check.reason} |" in manual, check.code


def test_links_in_the_manuals_lead_somewhere() -> None:
    for page in [ROOT / "README.md", *DOCS.rglob("*.md")]:
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text("utf-8")):
            if not target.startswith("/schema"):
                assert (page.parent / target).exists(), f"{page.name}: {target}"


def test_lock_files_name_no_host() -> None:
    for name in ("requirements.lock", "requirements-test.lock"):
        assert not re.search(r"https?://", (ROOT / name).read_text("utf-8")), name
    assert '"resolved"' not in (ROOT / "package-lock.json").read_text("utf-8")


def test_the_drag_step_of_prices_is_what_the_manual_calls_a_square_decimetre() -> None:
    from stonechat.core.load.problem import DRAG_STEP

    assert pytest.approx(0.01) == DRAG_STEP


def test_templates_and_styles_hold_lines_that_can_be_read() -> None:
    files = [*(ROOT / "src/stonechat/render/templates").rglob("*.html"), *STATIC.glob("*.css")]
    long = [
        f"{path.name}:{number}"
        for path in files
        for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
        if len(line) > 140
    ]
    assert files and not long


def test_a_colour_stands_once_as_a_variable_of_the_theme() -> None:
    rules = re.sub(r"(:root|\[data-bs-theme=\"dark\"\]) \{[^}]*\}", "", (STATIC / "app.css").read_text("utf-8"))
    scripts = "".join(path.read_text("utf-8") for path in STATIC.glob("*.js"))
    assert not re.findall(r"#[0-9a-f]{3,8}\b(?=[\s;\",)])", rules + scripts)
