"""Asks ngspice for the voltages of a network of admittances and sources: the oracle of the solver. It shares nothing with it."""

import re
import subprocess
from collections.abc import Sequence
from dataclasses import dataclass
from math import pi

HERTZ = 50.0


@dataclass(frozen=True)
class Branch:
    """An admittance in S between two nodes, with volts in series that lift b over a."""

    a: int
    b: int
    siemens: complex
    volts: complex = 0j


def ask_spice(nodes: int, branches: Sequence[Branch], *, is_dc: bool) -> list[complex]:
    """Return the volts of each node to node 0, by an analysis at one frequency or an operating point."""
    lines = ["a network"]
    for n, branch in enumerate(branches):
        inner = f"s{n}" if branch.volts else f"n{branch.b}"
        if branch.volts:
            kind = (
                f"DC {branch.volts.real:.15g}"
                if is_dc
                else f"DC 0 AC {abs(branch.volts):.15g} {_degrees(branch.volts):.15g}"
            )
            lines.append(f"V{n} n{branch.b} {inner} {kind}")
        lines.extend(_parallel(n, f"n{branch.a}", inner, branch.siemens))
    names = [f"n{n}" for n in range(1, nodes)]
    text = "\n".join(lines).replace(" n0 ", " 0 ") + "\n"
    shown = " ".join(f"v({name})" if is_dc else f"vr({name}) vi({name})" for name in names)
    text += f".control\nset numdgt=15\n{'op' if is_dc else f'ac lin 1 {HERTZ} {HERTZ}'}\nprint {shown}\n.endc\n.end\n"
    run = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, check=False, timeout=60)
    read = dict(re.findall(r"^(v[ri]?\(n\d+\)) = (\S+)", run.stdout, re.M))
    if is_dc:
        return [0j, *(complex(float(read[f"v({name})"])) for name in names)]
    return [0j, *(complex(float(read[f"vr({name})"]), float(read[f"vi({name})"])) for name in names)]


def _degrees(value: complex) -> float:
    from cmath import phase

    return phase(value) * 180 / pi


def _parallel(n: int, a: str, b: str, siemens: complex) -> list[str]:
    """Return conductance, coil or capacitor side by side."""
    lines = [f"R{n} {a} {b} {1 / siemens.real:.15g}"] if siemens.real else []
    if siemens.imag < 0:
        lines.append(f"L{n} {a} {b} {-1 / (2 * pi * HERTZ * siemens.imag):.15g}")
    if siemens.imag > 0:
        lines.append(f"C{n} {a} {b} {siemens.imag / (2 * pi * HERTZ):.15g}")
    return lines
