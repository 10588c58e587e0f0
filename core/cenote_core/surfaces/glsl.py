"""The blend formulas in the language of the plate's shaders, made from their Python source.

`python -m cenote_core.surfaces.glsl` prints web/src/plate/formulas.gen.ts; `bin/test` compares it.
"""

from __future__ import annotations

import ast
import inspect
from types import ModuleType

from . import formulas, wind_formulas

_OPERATORS = {ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.Div: "/"}
_OF_THE_LANGUAGE = {"mix"}
"""Functions that GLSL has itself under the same name and with the same meaning."""


def expression(node: ast.expr) -> str:
    """An arithmetic expression; ValueError for anything the two languages do not share."""
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        return repr(float(node.value))
    if isinstance(node, ast.Name):
        return node.id
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
        return f"-{expression(node.operand)}"
    if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
        return f"({expression(node.left)} {_OPERATORS[type(node.op)]} {expression(node.right)})"
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and not node.keywords:
        # Of a vector and a number GLSL takes the vector first; Python does not mind.
        args = (
            sorted(node.args, key=lambda a: isinstance(a, ast.Constant))
            if node.func.id in ("min", "max")
            else node.args
        )
        return f"{node.func.id}({', '.join(map(expression, args))})"
    raise ValueError(f"line {node.lineno}: {ast.unparse(node)} has no counterpart in GLSL")


def _type(annotation: ast.expr | None) -> str:
    if not isinstance(annotation, ast.Name):
        raise ValueError("every parameter and result needs its type")
    return {"float": "float", "Colour": "vec3"}[annotation.id]


def function(node: ast.FunctionDef) -> str:
    """One function: assignments and a return."""
    args = node.args.args
    types = {arg.arg: _type(arg.annotation) for arg in args}
    result = _type(node.returns)
    lines = [f"{result} {node.name}({', '.join(f'{types[a.arg]} {a.arg}' for a in args)}) {{"]
    known = set(types)
    for step in node.body[1:]:
        if isinstance(step, ast.Assign) and isinstance(step.targets[0], ast.Name):
            name = step.targets[0].id
            lines.append(f"  {'' if name in known else result + ' '}{name} = {expression(step.value)};")
            known.add(name)
        elif isinstance(step, ast.Return) and step.value is not None:
            lines.append(f"  return {expression(step.value)};")
        else:
            raise ValueError(f"line {step.lineno}: {ast.unparse(step)} has no counterpart in GLSL")
    return "\n".join([*lines, "}"])


def translated(module: ModuleType) -> str:
    """All constants and functions of a module of formulas."""
    parts = []
    for node in ast.parse(inspect.getsource(module)).body:
        if (
            isinstance(node, ast.Assign)
            and isinstance(node.targets[0], ast.Name)
            and isinstance(node.value, ast.Constant)
        ):
            parts.append(f"const float {node.targets[0].id} = {expression(node.value)};")
        elif isinstance(node, ast.FunctionDef) and node.name not in _OF_THE_LANGUAGE:
            parts.append(function(node))
    return "\n".join(parts)


def constants(module: ModuleType) -> dict[str, float]:
    """The constants of a module of formulas, for what is no shader."""
    return {name: value for name, value in vars(module).items() if name.isupper() and isinstance(value, float)}


def main() -> None:
    """Print the front end's copy."""
    print(
        "/** Made by `python -m cenote_core.surfaces.glsl` from core/cenote_core/surfaces/*formulas.py; do not edit. */"
    )
    print(f"export const formulas = /* glsl */ `\n{translated(formulas)}\n`;\n")
    print(f"export const windFormulas = /* glsl */ `\n{translated(wind_formulas)}\n`;\n")
    rows = "".join(f"  {name}: {value!r},\n" for name, value in constants(formulas).items())
    print(f"export const constants = {{\n{rows}}};")


if __name__ == "__main__":
    main()
