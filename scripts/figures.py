"""Write `docs/builders/models/figures.md`: every figure of the models as it stands in the code, with its unit and band.

python scripts/figures.py
"""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

HERE = Path(__file__).parent.parent
CORE = HERE / "src" / "stonechat" / "core"
PAGE = HERE / "docs" / "builders" / "models" / "figures.md"
_HEAD = """# Figures

Every figure of the core that stands by itself in its module, as it is in the code. `python scripts/figures.py` writes
this page, and a test holds it. Figures by place, surface, kind or job stand in the tables of their modules.

"""


def figures_of(path: Path) -> Iterator[tuple[str, str, str]]:
    """Yield name, value and comment of the figures that a module states by themselves."""
    source = path.read_text("utf-8")
    lines = source.splitlines()
    for node in ast.parse(source).body:
        if not isinstance(node, ast.Assign) or len(node.targets) != 1 or node.end_lineno is None:
            continue
        comment = lines[node.end_lineno - 1].partition("  # ")[2].strip()
        above = lines[node.lineno - 2].removeprefix("# ") if lines[node.lineno - 2].startswith("# ") else ""
        names = [part.id for part in ast.walk(node.targets[0]) if isinstance(part, ast.Name)]
        value = ast.get_source_segment(source, node.value) or ""
        if _is_figure(node.value) and all(name.strip("_").isupper() for name in names):
            yield ", ".join(names), re.sub(r"\\s+", " ", value), comment or above


def _is_figure(node: ast.expr) -> bool:
    """Tell whether a value is a number, several of them, or sums of numbers."""
    if isinstance(node, ast.Constant):
        return isinstance(node.value, int | float) and not isinstance(node.value, bool)
    if isinstance(node, ast.BinOp):
        return _is_figure(node.left) and _is_figure(node.right)
    if isinstance(node, ast.UnaryOp):
        return _is_figure(node.operand)
    return isinstance(node, ast.Tuple) and bool(node.elts) and all(map(_is_figure, node.elts))


def page() -> str:
    """Return the page."""
    parts = [_HEAD]
    for path in sorted(CORE.rglob("*.py")):
        rows = list(figures_of(path))
        if rows:
            parts.append(
                f"## `core/{path.relative_to(CORE)}`\n\n| figure | value | unit and meaning |\n|---|---|---|\n"
            )
            parts += [f"| `{name}` | {value} | {comment.replace('|', '/')} |\n" for name, value, comment in rows]
            parts.append("\n")
    return "".join(parts).rstrip("\n") + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
