"""What a hand does at the simulated printer: files put in, paper pulled, and the commands a print needs."""

from __future__ import annotations

FEELS = ((0.012, "stuck"), (0.04, "bunches"), (0.07, "strong"), (0.115, "slight"), (9.0, "free"))
"""Up to which gap paper of 0.1 mm feels how, mm."""
MAX_CARD = 60_000
"""Lines of a file."""


class Card:
    """Part of the firmware that runs files; its state is the firmware's."""

    def insert(self, name: str, text: str) -> None:
        """Put a file in and start it.

        Raises
        ------
        ValueError
            When it is too long, or a print runs.
        """
        lines = [line.partition(";")[0].strip() for line in text.splitlines()]
        lines = [line for line in lines if line]
        if self.card:
            raise ValueError("A print runs already.")
        if not lines or len(lines) > MAX_CARD:
            raise ValueError("This file is empty or too long.")
        with self.lock:
            self.sheet.clear()
            self.card_name, self.card_at = name[:80], 0
            self.card = lines

    def cancel(self) -> None:
        """Stop the print; heaters off."""
        with self.lock:
            self.card, self.waiting = [], None
            self.bed.bed_target = self.bed.nozzle_target = 0.0

    def _from_card(self) -> None:
        line = self.card[self.card_at]
        self.card_at += 1
        last = self.card_at >= len(self.card)
        quiet, self.answer = self.answer, lambda _text: None  # the line hears nothing of it
        try:
            self._do(self.mood.hear(line))
        finally:
            self.answer = quiet
        if last or self.halted.is_set():
            self.card = []

    def gap(self, x, y):
        """True gap under the tip at places, at its present height, mm."""
        with self.lock:
            return self.z + self.zero - self.bed.height(x, y) + self.offset - self.true_offset

    def paper(self) -> str:
        """How paper of 0.1 mm feels under the tip now."""
        gap = float(self.gap(self.x, self.y))
        return next(feel for most, feel in FEELS if gap <= most or most > 1)

    def to_middle(self) -> None:
        """Home when that was not done, and put the tip at the middle, Z = 0."""
        if not self.homed:
            self.lines.put("G28")
        for line in (
            "G1 Z5 F600",
            f"G0 X{self.bed.width / 2:.1f} Y{self.bed.depth / 2:.1f} F6000",
            "G1 Z0 F300",
        ):
            self.lines.put(line)

    def by_hand(self, x: float, y: float, z: float) -> None:
        """Push the head somewhere by hand, motors off.

        Raises
        ------
        ValueError
            While it prints, or beside the bed.
        """
        if self.card:
            raise ValueError("A print runs.")
        if not (0 <= x <= self.bed.width and 0 <= y <= self.bed.depth and -2 <= z <= 50):
            raise ValueError("The head does not go there.")
        with self.lock:
            self.x, self.y, self.z = x, y, z

    def _count_from(self, words) -> None:
        if words.get("E") is not None:
            self.pushed = words["E"]

    def _count(self, relative: bool) -> None:
        self.relative = relative

    def _wait_for_hand(self, command: str) -> None:
        if self.card:
            self.waiting = command[2:].strip() or "Waiting"

    def _heat_and_wait(self, which: str, words) -> bool | None:
        self._heat(which, words)
        target = getattr(self.bed, f"{which}_target")
        while getattr(self.bed, which) < target - 1:
            if not self.spend(2.0):
                return False
        return None

    def _set_offset(self, words) -> None:
        if words.get("Z") is not None:
            self.offset = min(max(words["Z"], -10.0), 10.0)
        self.say(f"echo:Probe Z Offset: {self.offset:.2f}")

    def _store(self, _words) -> None:
        self.stored_offset = self.offset
        self.say("echo:Settings Stored")
