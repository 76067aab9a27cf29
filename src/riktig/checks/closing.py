"""Owns what rules about the behaviour of a circuit have in common: which contacts can close, whose contactors are which."""

from collections.abc import Iterable
from functools import partial

from riktig.plan.answers.feeding import Feeding, Settled
from riktig.plan.answers.links import Link, Sort
from riktig.plan.plan import Plan

BUTTONS = frozenset({"pushbutton"})


def is_closed_anyhow(link: Link) -> bool:
    """Return that a link can be closed, whichever it is."""
    return True


def is_not_broken_by(device: str, link: Link) -> bool:
    """Return whether a link can be closed while the break contacts of a device are open: of what follows no coil its make contacts are
    closed then; those of a relay are closed while it is in.
    """
    return not (link.device == device and link.sort is Sort.BREAK)


def pressed_of(feeding: Feeding, button: str) -> Settled:
    """Return what can be in, and is reached, while a button is pressed; found once for a circuit."""
    if button not in feeding.pressed:
        closable = partial(is_not_broken_by, button)
        feeding.pressed[button] = feeding.settled(closable, feeding.coiled, grows=False)
    return feeding.pressed[button]


def devices_of_kind(plan: Plan, motor: str, kinds: Iterable[str]) -> list[str]:
    """Return the devices of some kinds in the power circuit of a motor or load, from the supply on."""
    circuit = plan.power_circuits.get(motor)
    wanted = frozenset(kinds)
    return (
        [d for d, _ in circuit.devices if d in plan.parts and plan.parts[d].kind in wanted]
        if circuit is not None
        else []
    )


def contactors_of(plan: Plan, motor: str) -> list[str]:
    """Return the contactors of a motor."""
    return devices_of_kind(plan, motor, {"contactor"})


def tags_of(plan: Plan, links: Iterable[Link]) -> str:
    """Return the tags of what links belong to, each once."""
    return ", ".join(dict.fromkeys(plan.tags[link.device] for link in links))
