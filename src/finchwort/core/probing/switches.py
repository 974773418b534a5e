"""End switches and probe: what a table of their states says about plugs, logic and wires."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.probing.kinds import SwitchState, Wiring

SWITCH_STATES = tuple(SwitchState)
WIRINGS = tuple(Wiring)
MAX_SWITCHES = 12
"""So many switches a printer may have."""


@dataclass(frozen=True)
class SwitchFinding:
    """What is the matter with a switch.

    Attributes
    ----------
    switch : str
    kind : {"good", "swapped", "inverted", "dead", "crossed", "waiting"}
    remark : Remark
        What was seen and what to look at.
    """

    switch: str
    kind: str
    remark: Remark


def diagnose_switches(
    untouched: Mapping[str, str],
    pressed: Mapping[str, Mapping[str, str]],
    wiring: Mapping[str, str] | None = None,
) -> tuple[SwitchFinding, ...]:
    """Find out what is wrong from the states of all switches.

    Parameters
    ----------
    untouched : mapping of str to {"open", "triggered"}
        Every switch's state while none is pressed.
    pressed : mapping of str to mapping
        For each switch that was pressed by hand, the states of all switches meanwhile.
    wiring : mapping of str to {"normally_open", "normally_closed", "unknown"}, optional

    Returns
    -------
    tuple of SwitchFinding
        One for each switch, in the order of ``untouched``.

    Raises
    ------
    ChoiceError
        When a state or a name is not known.

    Examples
    --------
    >>> found = diagnose_switches(
    ...     {"x": "open", "y": "open"},
    ...     {"x": {"x": "open", "y": "triggered"}, "y": {"x": "triggered", "y": "open"}},
    ... )
    >>> [one.kind for one in found]
    ['swapped', 'swapped']
    """
    wiring = wiring or {}
    _check(untouched, pressed, wiring)
    changed = {
        name: {other for other in untouched if states.get(other, untouched[other]) != untouched[other]}
        for name, states in pressed.items()
    }
    return tuple(_find(name, untouched, changed, wiring.get(name, "unknown")) for name in untouched)


def _check(
    untouched: Mapping[str, str], pressed: Mapping[str, Mapping[str, str]], wiring: Mapping[str, str]
) -> None:
    if not untouched or len(untouched) > MAX_SWITCHES:
        raise ChoiceError("probing.put_states_switches", max_switches=MAX_SWITCHES)
    for states in (untouched, *pressed.values()):
        bad = next((state for state in states.values() if state not in SWITCH_STATES), None)
        if bad is not None:
            raise ChoiceError("probing.switch_open_triggered_not", bad=bad)
        strange = set(states) - set(untouched)
        if strange:
            raise ChoiceError("probing.nothing_known_switch_called", strange=strange.pop())
    strange = (set(pressed) | set(wiring)) - set(untouched)
    if strange:
        raise ChoiceError("probing.nothing_known_switch_called", strange=strange.pop())
    if set(wiring.values()) - set(WIRINGS):
        raise ChoiceError("probing.switch_normally_open_normally")


def _find(
    name: str, untouched: Mapping[str, str], changed: Mapping[str, set[str]], wiring: str
) -> SwitchFinding:
    idle = untouched[name]
    if name not in changed:
        code = "probing.switch_triggered_untouched" if idle == "triggered" else "probing.switch_to_press"
        return SwitchFinding(name, "waiting", remark(code, name=name))
    moved = changed[name]
    others = sorted(moved - {name})
    if name in moved and not others:
        if idle == "triggered":
            return SwitchFinding(name, "inverted", remark("probing.switch_inverted", name=name))
        return SwitchFinding(name, "good", remark("probing.switch_good", name=name, wiring=wiring))
    if not moved:
        return SwitchFinding(name, "dead", remark("probing.switch_dead", name=name, idle=idle, wiring=wiring))
    partner = next((o for o in others if changed.get(o) is not None and name in changed[o]), None)
    if name not in moved and len(others) == 1:
        other = others[0]
        text = remark(
            "probing.switch_swapped", name=name, other=other, partner=partner, pressed=other in changed
        )
        return SwitchFinding(name, "swapped", text)
    return SwitchFinding(
        name, "crossed", remark("probing.switch_crossed", name=name, moved=tuple(sorted(moved)))
    )


def diagnose_probe(stowed: str, deployed: str, touched: str | None = None) -> SwitchFinding:
    """Judge a retracting probe from its states.

    Parameters
    ----------
    stowed, deployed : {"open", "triggered"}
    touched : {"open", "triggered"}, optional
        Deployed and pushed up by a finger.

    Examples
    --------
    >>> diagnose_probe("triggered", "open", "triggered").kind, diagnose_probe("open", "triggered").kind
    ('good', 'inverted')
    """
    for state in (stowed, deployed, touched or "open"):
        if state not in SWITCH_STATES:
            raise ChoiceError("probing.probe_open_triggered_not", state=state)
    if stowed == deployed:
        return SwitchFinding("probe", "dead", remark("probing.probe_dead", stowed=stowed))
    if deployed == "triggered":
        return SwitchFinding("probe", "inverted", remark("probing.probe_inverted"))
    if touched == "open":
        return SwitchFinding("probe", "dead", remark("probing.probe_pin_dead"))
    return SwitchFinding("probe", "good", remark("probing.probe_good", pushed=touched is not None))
