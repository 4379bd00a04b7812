"""A formula as text: worked out with numbers, or written with them in place of its symbols.

The arithmetic of a sum only: numbers, symbols, + − · / and powers, and the five functions below. Left out: everything
else that Python's grammar allows; it is refused.
"""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable, Mapping
from functools import cache, lru_cache

FUNCTIONS: Mapping[str, Callable[..., float]] = {
    "sqrt": math.sqrt,
    "log10": math.log10,
    "min": min,
    "max": max,
    "exp": math.exp,
}
OPERATIONS: Mapping[type[ast.operator], Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}


@cache
def _parsed(formula: str) -> ast.expr:
    return ast.parse(formula, mode="eval").body


def evaluate(formula: str, values: Mapping[str, float]) -> float:
    """The formula's value.

    formula   an expression in the symbols of `values`, in Python's spelling
    values    a number for each symbol
    Raises KeyError for a symbol without a value, TypeError for anything that is not arithmetic.
    """
    return _value(_parsed(formula), values)


def _value(node: ast.expr, values: Mapping[str, float]) -> float:
    match node:
        case ast.Constant(value=int() | float() as number):
            return float(number)
        case ast.Name(id=symbol):
            return values[symbol]
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_value(operand, values)
        case ast.BinOp(left=left, op=operation, right=right):
            return OPERATIONS[type(operation)](_value(left, values), _value(right, values))
        case ast.Call(func=ast.Name(id=name), args=arguments, keywords=[]) if name in FUNCTIONS:
            return FUNCTIONS[name](*(_value(each, values) for each in arguments))
    raise TypeError(f"{ast.unparse(node)!r} is no arithmetic")


def substituted(formula: str, values: Mapping[str, str]) -> str:
    """The formula as an installer writes it, with a text for each symbol in place of it."""
    return pretty(re.sub(r"[A-Za-z_]\w*", lambda match: values.get(match.group(), match.group()), formula))


@lru_cache(maxsize=2000)
def pretty(formula: str) -> str:
    """Python's operators and names as an installer writes them."""
    replaced = formula.replace("**2", "²").replace("**", "^").replace("*", "·").replace("sqrt", "√")
    return re.sub(r"(?<![A-Za-z])[a-z]+(?![a-z])", lambda name: SIGNS.get(name[0], name[0]), replaced).replace(
        " - ", " − "
    )


SIGNS = {"cosphi": "cos φ", "eta": "η", "rho": "ρ", "phi": "φ", "pi": "π"}
"""Names that are written as a sign."""
