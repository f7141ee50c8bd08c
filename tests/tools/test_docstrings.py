"""What is public says what it takes, gives and raises, with shapes and units; constants say why."""

import ast
import doctest
import functools
import importlib
import inspect
import pkgutil
import re
import textwrap
from collections.abc import Iterator
from pathlib import Path
from types import ModuleType
from typing import Any

import pytest
from numpydoc.validate import validate

CORE = Path(__file__).resolve().parents[2] / "core"
# the rules of numpydoc's that hold here: a summary in one line, that ends with a full stop and does
# not begin in the plural of a verb; all parameters, in order, with types; what is returned
RULES = {"GL01", "GL05", "GL06", "GL07", "GL08", "SS01", "SS03", "SS04", "SS06"}
RULES |= {"PR01", "PR02", "PR03", "PR04", "PR10", "RT01", "YD01"}
NO_EXAMPLE = {
    "caulkcore.errors",
    "caulkcore.jit",
    "caulkjob.chosen_places",
    "caulkjob.commands",
    "caulkjob.operations",
    "caulkjob.warm",
}
"""Modules without a function to show, or whose functions only serve another module's."""
ARRAYS = re.compile(r"^(\*?\w[\w, ]*) : (ndarray|array)(?!.*(shape|of any))", re.MULTILINE)


def modules() -> list[ModuleType]:
    """All public modules of both packages."""
    found = []
    for package in ("caulkcore", "caulkjob"):
        whole = importlib.import_module(package)
        found.append(whole)
        for one in pkgutil.walk_packages(whole.__path__, f"{package}."):
            if not any(part.startswith("_") for part in one.name.split(".")):
                found.append(importlib.import_module(one.name))
    return found


MODULES = modules()
EXCEPTIONS = {
    name: one
    for module in MODULES
    for name, one in vars(module).items()
    if isinstance(one, type) and issubclass(one, Exception)
}
OURS = set(EXCEPTIONS)
_BEING_LOOKED_AT: list[Any] = []


def public(module: ModuleType) -> Iterator[tuple[str, Any]]:
    """Public functions, classes and methods that a module defines, by their full names."""
    for name, thing in vars(module).items():
        plain = getattr(thing, "py_func", thing)
        if name.startswith("_") or getattr(plain, "__module__", "") != module.__name__:
            continue
        if inspect.isfunction(plain):
            yield f"{module.__name__}.{name}", plain
        elif inspect.isclass(plain):
            yield f"{module.__name__}.{name}", plain
            for member, method in vars(plain).items():
                method = getattr(method, "__func__", method)
                if inspect.isfunction(method) and not member.startswith("_"):
                    yield f"{module.__name__}.{name}.{member}", method


FUNCTIONS = [(name, one) for module in MODULES for name, one in public(module)]


@pytest.mark.parametrize("module", MODULES, ids=lambda one: one.__name__)
def test_public_docstrings_say_what_is_taken_and_given(module: ModuleType) -> None:
    wrong = []
    for name, thing in public(module):
        document = inspect.getdoc(thing)
        if document is None:
            wrong.append(f"{name}: no docstring")
            continue
        kept = RULES - ({"PR01", "PR02"} if inspect.isclass(thing) else set())
        found = validate(name)["errors"] if not hasattr(thing, "__wrapped__") else []
        wrong += [f"{name}: {code} {text}" for code, text in found if code in kept]
        wrong += [f"{name}: no shape of {m[1]}" for m in ARRAYS.finditer(document)]
        if not inspect.isclass(thing):
            if module.__name__ != "caulkjob.warm":
                wrong += [f"{name}: {one} is raised" for one in _unsaid(thing, document)]
            wrong += [f"{name}: {one} is not keyword-only" for one in _loose_options(thing)]
    assert not wrong, "\n".join(wrong)


def _unsaid(function: Any, document: str) -> set[str]:
    """Exceptions of ours that a function raises, or lets pass, without saying so."""
    return _raised(function) - _said(document)


def _said(document: str | None) -> set[str]:
    section = (document or "").partition("Raises\n------\n")[2].partition("\n\n")[0]
    return set(re.findall(r"^([A-Z]\w+)$", section, re.MULTILINE))


@functools.cache
def _raised(function: Any) -> frozenset[str]:
    """Exceptions that leave a function: its own, those of its helpers, and those that are said by
    the public functions that it calls."""
    tree = ast.parse(textwrap.dedent(inspect.getsource(function)))
    return frozenset(_leaving(tree.body, function.__globals__))


def _leaving(body: list[Any], known: dict[str, Any]) -> set[str]:
    found: set[str] = set()
    for node in body:
        if isinstance(node, ast.Try):
            caught = {name for one in node.handlers for name in _caught(one, known)}
            found |= _leaving(node.body, known) - caught
            for handler in node.handlers:
                found |= _leaving(handler.body, known)
            found |= _leaving(node.orelse + node.finalbody, known)
            continue
        if isinstance(node, ast.Raise) and isinstance(node.exc, ast.Call):
            found |= {getattr(node.exc.func, "id", "")} & OURS
        if isinstance(node, ast.Call):
            found |= _of_call(node, known)
        found |= _leaving(list(ast.iter_child_nodes(node)), known)
    return found


def _caught(handler: ast.ExceptHandler, known: dict[str, Any]) -> set[str]:
    names = (
        [x.id for x in ast.walk(handler.type) if isinstance(x, ast.Name)] if handler.type else []
    )
    kinds = tuple(known[name] for name in names if isinstance(known.get(name), type))
    return {name for name in OURS if issubclass(EXCEPTIONS[name], kinds)} if kinds else set()


def _of_call(node: ast.Call, known: dict[str, Any]) -> set[str]:
    called = known.get(node.func.id) if isinstance(node.func, ast.Name) else None
    if isinstance(node.func, ast.Attribute) and isinstance(node.func.value, ast.Name):
        called = getattr(known.get(node.func.value.id), node.func.attr, None)
    called = inspect.unwrap(called) if callable(called) else None
    if not inspect.isfunction(called) or not called.__module__.startswith("caulk"):
        return set()
    if called.__name__.startswith("_"):
        if called in _BEING_LOOKED_AT:  # it calls itself
            return set()
        _BEING_LOOKED_AT.append(called)
        try:
            return set(_raised(called))
        finally:
            _BEING_LOOKED_AT.pop()
    return _said(inspect.getdoc(called)) & OURS


def _loose_options(function: Any) -> list[str]:
    """Options that may be given by position; only the first may, which says of what or of which."""
    parameters = inspect.signature(function).parameters.values()
    loose = [
        one.name
        for one in parameters
        if one.default is not one.empty and one.kind is one.POSITIONAL_OR_KEYWORD
    ]
    return loose[1:]


@pytest.mark.parametrize("module", MODULES, ids=lambda one: one.__name__)
def test_examples_are_true(module: ModuleType) -> None:
    examples = [test for test in doctest.DocTestFinder().find(module) if test.examples]
    runner = doctest.DocTestRunner(verbose=False)
    for test in examples:
        runner.run(test)
    assert runner.failures == 0
    defines = any(inspect.isfunction(thing) for _, thing in public(module))
    if defines and module.__name__ not in NO_EXAMPLE:
        assert examples, f"{module.__name__} shows no example"


def test_kernels_say_what_each_of_their_arrays_holds() -> None:
    wrong = []
    for file in sorted(CORE.rglob("_*.py")):
        for node in ast.parse(file.read_text()).body:
            if not isinstance(node, ast.FunctionDef) or node.name.startswith("_"):
                continue
            annotations = [ast.unparse(a.annotation) for a in node.args.args if a.annotation]
            if annotations.count("Array") > 3 and "Parameters" not in (
                ast.get_docstring(node) or ""
            ):
                wrong.append(f"{file.relative_to(CORE)}: {node.name}")
    assert not wrong, "\n".join(wrong)


def test_constants_say_their_unit_or_their_reason() -> None:
    wrong = []
    for file in sorted(CORE.rglob("*.py")):
        body = ast.parse(file.read_text()).body
        for node, after in zip(body, [*body[1:], None], strict=True):
            target = node.targets[0] if isinstance(node, ast.Assign) else None
            target = node.target if isinstance(node, ast.AnnAssign) and node.value else target
            names = [x.id for x in ast.walk(target) if isinstance(x, ast.Name)] if target else []
            if not names or not all(re.fullmatch(r"_?[A-Z][A-Z0-9_]*", name) for name in names):
                continue
            told = isinstance(after, ast.Expr) and isinstance(after.value, ast.Constant)
            if not told or not isinstance(after.value.value, str):
                wrong.append(f"{file.relative_to(CORE)}:{node.lineno} {names[0]}")
    assert not wrong, "\n".join(wrong)
