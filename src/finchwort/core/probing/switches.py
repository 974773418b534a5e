"""End switches and probe: what a table of their states says about plugs, logic and wires."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError
from finchwort.core.probing.kinds import SwitchState, Wiring

SWITCH_STATES = tuple(SwitchState)
WIRINGS = tuple(Wiring)
MAX_SWITCHES = 12
"""So many switches a printer may have."""


NOT_YET = "Do not home or probe before that is put right."
"""Whatever is wrong with a switch and however it is wired."""


CONTINUITY = (
    "Power off and unplugged. Pull the switch's plug at the board, and set the meter to continuity.",
    "Probe the two pins of the plug, free and pressed: they must differ. If they do, the wire is whole: look at the port, and at "
    "the pull-up in the settings.",
    "If they do not, probe at the switch itself, free and pressed. If they differ there, the wire between is broken: bend it along "
    "its length while you probe, it breaks mostly where it moves.",
    "If they do not differ there either, the switch is worn out: replace it by one that is wired the same way.",
    "Plug it in again, power on, and test all switches once more before anything homes.",
)
"""The walk along a dead switch, with the power off (common practice)."""


@dataclass(frozen=True)
class SwitchFinding:
    """What is the matter with a switch.

    Attributes
    ----------
    switch : str
    kind : {"good", "swapped", "inverted", "dead", "crossed", "waiting"}
    sentence : str
        What was seen and what to look at.
    """

    switch: str
    kind: str
    sentence: str

    @property
    def walk(self) -> tuple[str, ...]:
        """How a break is found with a meter; empty where nothing is dead."""
        return CONTINUITY if self.kind == "dead" else ()


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
        if idle == "triggered":
            return SwitchFinding(
                name,
                "waiting",
                f"{name} reads triggered though nothing touches it. Press it and look whether it changes; do not home before.",
            )
        return SwitchFinding(name, "waiting", f"{name} is open, as it should be. Press it to see it trigger.")
    moved = changed[name]
    others = sorted(moved - {name})
    if name in moved and not others:
        if idle == "triggered":
            return SwitchFinding(
                name,
                "inverted",
                f"{name} reads triggered when free and open when pressed: its logic is set the wrong way round, "
                f"or it is wired the other way than the setting says. Invert the setting. {NOT_YET}",
            )
        text = f"{name} is open when free and triggered when pressed."
        if wiring == "normally_open":
            text += (
                " It is wired normally open, so a broken wire would not show: press it again now and then."
            )
        elif wiring == "normally_closed":
            text += " It is wired normally closed: a broken wire shows as triggered, which fails safe."
        return SwitchFinding(name, "good", text)
    if not moved:
        return SwitchFinding(name, "dead", _dead(name, idle, wiring))
    partner = next((o for o in others if changed.get(o) is not None and name in changed[o]), None)
    if name not in moved and len(others) == 1:
        text = f"Pressing {name} changes {others[0]} instead"
        if partner:
            text += f", and pressing {partner} changes {name}: their plugs are swapped. Motors off, power off, swap them."
        elif others[0] in changed:
            text += ". It is plugged into the wrong port."
        else:
            text += f". Press {others[0]} as well: if that changes {name}, the two plugs are swapped."
        return SwitchFinding(name, "swapped", f"{text} {NOT_YET}")
    return SwitchFinding(
        name,
        "crossed",
        f"Pressing {name} changes {' and '.join(sorted(moved))}: two inputs are joined. Look for a bent pin or a wire "
        f"in the wrong plug, with the power off. {NOT_YET}",
    )


def _dead(name: str, idle: str, wiring: str) -> str:
    text = f"{name} stays {idle} also when pressed: unplugged, in the wrong port, a wrong pull-up setting or a broken wire"
    text += " (a continuity meter tells, power off)."
    if idle == "triggered" and wiring != "normally_open":
        text += " A normally closed switch shows a broken wire like this; the machine will not move into it."
    if idle == "open":
        text += (
            " A switch that is closed when free should not read open at all: a wrong setting, or a short."
            if wiring == "normally_closed"
            else " A normally open switch hides a broken wire like this."
        )
        text += " The axis would run into its end."
    return f"{text} {NOT_YET}"


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
        return SwitchFinding(
            "probe",
            "dead",
            f"The probe reads {stowed} stowed and deployed alike. Does its pin move? Run its self-test, look at its plug. {NOT_YET}",
        )
    if deployed == "triggered":
        return SwitchFinding(
            "probe",
            "inverted",
            "The probe is open when stowed and triggered when deployed, the other way round than a retracting probe "
            f"usually is. Check the logic setting. {NOT_YET}",
        )
    if touched == "open":
        return SwitchFinding(
            "probe",
            "dead",
            f"The deployed probe does not trigger when its pin is pushed up. {NOT_YET}",
        )
    text = "Triggered when stowed, open when deployed: as a retracting probe should."
    if touched is None:
        text += " Deploy it and push the pin up gently: it must trigger."
    return SwitchFinding(
        "probe", "good", f"{text} Keep a hand on the power switch at the first real probing."
    )
