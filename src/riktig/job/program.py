"""Owns what the text of a controller's program means: one equation for each output or flag. Must not run it.

program  = equation , { ";" , equation }
equation = name , "=" , ( either | value , [ "when" , either ] )     (* a value for an analogue output, in volts *)
either   = both , { "or" , both }
both     = timed , { "and" , timed }
timed    = single , [ "for" , number , "s" ]                          (* true when it has been so long *)
single   = "not" , single | "(" , either , ")" | name [ ( "<" | ">" ) , number ]
value    = number | name
"""

import re
from dataclasses import dataclass

from riktig.refusal import Refusal

_TOKEN = re.compile(r"\s*([A-Za-z_]\w*|\d+(?:\.\d+)?|[()=<>;])")
_WORDS = frozenset({"or", "and", "not", "for", "when", "s"})
MOST_DEEP = 40
"""So deep brackets may stand in each other."""


class ProgramError(Refusal):
    """A program that says nothing: which equation, and what was expected."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Term:
    """A part of an equation: `sort` is name, not, and, or, for, < or >; `seconds` of a delay, `level` of a comparison."""

    sort: str
    name: str = ""
    parts: tuple["Term", ...] = ()
    number: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Equation:
    """What one output or flag is: true while `term` is, or of an analogue one `value` (a number in V, or the name of an input) then."""

    target: str
    term: Term | None
    value: float | str | None = None


def read_program(text: str) -> tuple[Equation, ...]:
    """Return the equations of a program in their order.

    Raises:
        ProgramError: it is none.
    """
    tokens: list[str] = []
    at = 0
    while at < len(text):
        found = _TOKEN.match(text, at)
        if found is None:
            if text[at:].strip():
                raise ProgramError(
                    f"{text[at:].strip()[:12]!r} is no word of a program: Q1 = I1 and not I2; Q2 = I3 for 5 s"
                )
            break
        tokens.append(found[1])
        at = found.end()
    reader = _Reader(tokens)
    equations = []
    while reader.there:
        equations.append(reader.equation())
        if reader.there:
            reader.take(";")
    named = [equation.target for equation in equations]
    for name in named:
        if named.count(name) > 1:
            raise ProgramError(f"{name} has two equations: join them with or")
    return tuple(equations)


class _Reader:
    """Reads tokens from left to right."""

    def __init__(self, tokens: list[str]) -> None:
        self._tokens, self._at, self._deep = tokens, 0, 0

    @property
    def there(self) -> bool:
        return self._at < len(self._tokens)

    @property
    def _next(self) -> str:
        return self._tokens[self._at] if self.there else ""

    def take(self, wanted: str = "") -> str:
        token = self._next
        if not token or (wanted and token != wanted):
            before = " ".join(self._tokens[max(0, self._at - 3) : self._at])
            raise ProgramError(f"{wanted or 'a name'} is expected after '{before}', there is {token or 'nothing'}")
        self._at += 1
        return token

    def _name(self) -> str:
        token = self.take()
        if token in _WORDS or not (token[0].isalpha() or token[0] == "_"):
            raise ProgramError(f"a name is expected, there is {token}")
        return token

    def equation(self) -> Equation:
        target = self._name()
        self.take("=")
        if target.startswith("AO"):
            token = self.take()
            value = float(token) if token[0].isdigit() else token
            term = None
            if self._next == "when":
                self.take()
                term = self._either()
            return Equation(target=target, term=term, value=value)
        return Equation(target=target, term=self._either())

    def _either(self) -> Term:
        parts = [self._both()]
        while self._next == "or":
            self.take()
            parts.append(self._both())
        return parts[0] if len(parts) == 1 else Term(sort="or", parts=tuple(parts))

    def _both(self) -> Term:
        parts = [self._timed()]
        while self._next == "and":
            self.take()
            parts.append(self._timed())
        return parts[0] if len(parts) == 1 else Term(sort="and", parts=tuple(parts))

    def _timed(self) -> Term:
        term = self._single()
        if self._next != "for":
            return term
        self.take()
        seconds = self._number()
        self.take("s")
        return Term(sort="for", parts=(term,), number=seconds)

    def _number(self) -> float:
        token = self.take()
        if not token[0].isdigit() or float(token) > 1e6:
            raise ProgramError(f"a number up to 1e6 is expected, there is {token}")
        return float(token)

    def _single(self) -> Term:
        self._deep += 1
        if self._deep > MOST_DEEP:
            raise ProgramError(f"brackets and not stand more than {MOST_DEEP} deep: make flags of them")
        try:
            if self._next == "not":
                self.take()
                return Term(sort="not", parts=(self._single(),))
            if self._next == "(":
                self.take()
                inner = self._either()
                self.take(")")
                return inner
            name = self._name()
            if self._next in {"<", ">"}:
                sign = self.take()
                return Term(sort=sign, name=name, number=self._number())
            return Term(sort="name", name=name)
        finally:
            self._deep -= 1


def names_in(equations: tuple[Equation, ...]) -> frozenset[str]:
    """Return all names that a program reads."""
    found: set[str] = set()
    stack = [equation.term for equation in equations if equation.term is not None]
    found |= {equation.value for equation in equations if isinstance(equation.value, str)}
    while stack:
        term = stack.pop()
        stack.extend(term.parts)
        if term.name:
            found.add(term.name)
    return frozenset(found)
