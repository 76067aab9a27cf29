"""Owns what a device must be rated for that leads the current of several motors and loads. Must not know the sizes of one alone."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.plan.circuit.model import Circuit
from riktig.plan.sizes.needs import Need
from riktig.plan.sizes.own_loads import OwnLoad
from riktig.plan.sizes.ratings import ride_through_a, switch_need
from riktig.plan.sizes.starter import StarterSizes
from riktig.standards import nec
from riktig.units.numbers import format_number

_SOURCE = {
    True: "holds while the largest motor starts and the others run: IEC 60898-1 Table 7, IEC 60269, from memory",
    False: "several motors on one branch: NEC 430.53(C) and (D), 430.62(A), from memory; they must be listed for group installation",
}


def needs_of_groups(
    leads: Mapping[str, tuple[str, ...]],
    starters: Mapping[str, StarterSizes],
    loads: Mapping[str, OwnLoad],
    needs: Mapping[str, Need],
    circuit: Circuit,
    job: Job,
) -> dict[str, Need]:
    """Return the needs of devices that lead the current of more than one motor or load.

    Args:
        leads: device -> what it leads the current of.
        starters: the sizes of each motor.
        loads: loads of a person's own.
        needs: what each of them alone would ask, by device.
        circuit: the circuit.
        job: the Job.

    Source:
        See the need; IEC 60364-4-43 433.1.
    """
    found = {}
    for device, all_fed in leads.items():
        fed = [name for name in all_fed if name in starters or name in loads]
        if len(fed) < 2 or device not in needs:
            continue
        motors = [starters[name].motor for name in fed if name in starters]
        others = sum(loads[name].amps or 0.0 for name in fed if name in loads)
        amps = sum(motor.current for motor in motors) + others
        words = f"{', '.join(fed)} together {format_number(amps)} A"
        need = needs[device]
        if need.quantity == "isolator_rating":
            found[device] = replace(
                switch_need(amps, fed[0], job.practice.standard),
                formula=f"115 % of {words} = {format_number(1.15 * amps)} A",
            )
        elif need.quantity == "contactor_rating":
            found[device] = replace(
                need, amps=max(amps, need.amps), hp=0.0, formula=f"{words}: at least {format_number(amps)} A"
            )
        elif need.quantity == "protective_rating" and job.practice.standard is Standard.IEC:
            is_fuse = circuit.index[device].kind == "fuse"
            least = max(
                amps,
                ride_through_a(amps, motors, is_fuse=is_fuse),
                *(starters[n].motor.protection.least for n in fed if n in starters),
            )
            found[device] = replace(
                need, amps=least, most=0.0, top=0.0, setting=None, curves=("gG",) if is_fuse else ("D",), source=_SOURCE[True],
                formula=f"{words}; at least {format_number(least)} A, so that the largest starts while the others run",
            )  # fmt: skip
        elif need.quantity == "protective_rating":
            found[device] = _north_american(need, fed, starters, others, words)
    return found


def _north_american(
    need: Need, fed: Sequence[str], starters: Mapping[str, StarterSizes], others: float, words: str
) -> Need:
    motors = [starters[name].motor for name in fed if name in starters]
    devices = [max(motor.protection.least, motor.protection.top) for motor in motors]
    limit = nec.feeder_device_a(devices, [motor.table for motor in motors], others_a=others) or need.amps
    return replace(
        need, amps=limit, most=limit, top=0.0, setting=None, source=_SOURCE[False],
        formula=f"{words}; the largest branch device and the other motors, next size down: {limit:g} A",
    )  # fmt: skip
