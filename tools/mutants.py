"""How many small faults in the rules the tests notice: make mutants.

Faults are made by operators on the syntax tree (a comparison turned round, a figure moved, and for or, max for min, a
sign), drawn by lot but always the same, in the modules that a verdict rests on. Each is tried in a copy of the sources.
Whether a bound itself is still within is left to the tests of edges: between real numbers it is seldom a difference.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src" / "low_tide" / "core"
RULES = (
    *sorted((CORE / "judging" / "checks").glob("*.py")),
    *sorted((CORE / "gear").glob("*.py")),
    *(CORE / "power" / f"{name}.py" for name in ("shares", "speaker_network", "joint_states", "worst_case")),
    CORE / "signal_path" / "levels.py",
    CORE / "rig" / "reachable_states.py",
    CORE / "thermal" / "heating.py",
    CORE / "acoustics" / "exposure.py",
)
TESTS = (
    "verdicts",
    "checks",
    "power_and_level",
    "path_checks",
    "gear",
    "people",
    "slips",
    "signal",
    "loudness",
    "edges",
    "level_plan",
    "closed_forms",
    "worst_case",
    "results",
    "scenes",
)
TURNED: dict[type[ast.cmpop], ast.cmpop] = {
    ast.Lt: ast.GtE(),
    ast.LtE: ast.Gt(),
    ast.Gt: ast.LtE(),
    ast.GtE: ast.Lt(),
    ast.Eq: ast.NotEq(),
    ast.NotEq: ast.Eq(),
    ast.In: ast.NotIn(),
    ast.NotIn: ast.In(),
}
SWAPPED = {"max": "min", "min": "max", "any": "all", "all": "any"}


@dataclass(frozen=True)
class Mutant:
    """One fault: the module, its line, what it was and what it is made."""

    path: Path
    line: int
    before: str
    after: str
    source: str


def _changed(node: ast.AST) -> ast.AST | None:
    """The node with a fault in it; None where there is none to make."""
    match node:
        case ast.Compare(ops=[op]) if type(op) in TURNED:
            return ast.Compare(node.left, [TURNED[type(op)]], node.comparators)
        case ast.BoolOp(op=op):
            return ast.BoolOp(ast.Or() if isinstance(op, ast.And) else ast.And(), node.values)
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            return operand
        case ast.BinOp(op=ast.Add()):
            return ast.BinOp(node.left, ast.Sub(), node.right)
        case ast.BinOp(op=ast.Mult()):
            return ast.BinOp(node.left, ast.Div(), node.right)
        case ast.Call(func=ast.Name(id=name)) if name in SWAPPED:
            return ast.Call(ast.Name(SWAPPED[name], ast.Load()), node.args, node.keywords)
        case ast.Constant(value=float(value)) if value not in (0.0,):
            return ast.Constant(value * 1.15)
    return None


def mutants(path: Path) -> Iterator[Mutant]:
    """Every fault that can be made in the functions of a module, and in its constants."""
    text = path.read_text(encoding="utf-8")
    lines = text.split("\n")
    for node in ast.walk(ast.parse(text)):
        made = _changed(node)
        line, end = getattr(node, "lineno", 0), getattr(node, "end_lineno", 0)
        if made is None or line != end or "Spec(" in lines[line - 1]:
            continue
        raw = lines[line - 1].encode()
        a, b = node.col_offset, node.end_col_offset  # type: ignore[attr-defined]
        before, after = raw[a:b].decode(), ast.unparse(ast.fix_missing_locations(made))
        changed = [*lines[: line - 1], (raw[:a] + after.encode() + raw[b:]).decode(), *lines[line:]]
        yield Mutant(path, line, before, after, "\n".join(changed))


def survives(mutant: Mutant) -> bool:
    """Whether the tests of the core pass with this fault in the program: those first that are about the rules."""
    first = [f"tests/core/test_{name}.py" for name in TESTS]
    rest = sorted({str(p.relative_to(ROOT)) for p in (ROOT / "tests" / "core").glob("test_*.py")} - set(first))
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(ROOT / "src" / "low_tide", Path(folder) / "low_tide", ignore=shutil.ignore_patterns("static"))
        (Path(folder) / "low_tide" / mutant.path.relative_to(ROOT / "src" / "low_tide")).write_text(mutant.source)
        # No example that another fault was found by: what they show is this fault's alone.
        there = {"PYTHONPATH": folder, "HYPOTHESIS_STORAGE_DIRECTORY": str(Path(folder) / "examples")}
        run = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *first, *rest]
        try:
            found = subprocess.run(run, cwd=ROOT, env={**os.environ, **there}, capture_output=True, timeout=900)
        except subprocess.TimeoutExpired:
            return False
        return found.returncode == 0


def main() -> None:
    """Print what survives, and the score."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--count", type=int, default=60, help="how many faults are tried")
    asked.add_argument("--seed", type=int, default=8)
    asked.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    given = asked.parse_args()
    sound = RULES[0].read_text(encoding="utf-8")
    if not survives(Mutant(RULES[0], 0, "", "", sound)):
        raise SystemExit("The tests do not pass as they are: a score would say nothing.")
    every = [m for path in RULES for m in mutants(path)]
    chosen = random.Random(given.seed).sample(every, min(given.count, len(every)))
    killed = 0
    with ThreadPoolExecutor(given.workers) as pool:
        for n, (mutant, alive) in enumerate(zip(chosen, pool.map(survives, chosen), strict=True), 1):
            killed += not alive
            print(f"{killed} of {n} noticed", end="\r", file=sys.stderr)
            if alive:
                print(f"{mutant.path.relative_to(ROOT)}:{mutant.line}: {mutant.before}  →  {mutant.after}", flush=True)
    print(f"{killed} of {len(chosen)} noticed ({100 * killed / len(chosen):.0f} %), of {len(every)} that can be made")


if __name__ == "__main__":
    main()
