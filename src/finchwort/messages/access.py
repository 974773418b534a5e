"""What is said of devices."""

from __future__ import annotations

ERRORS = {
    "access.choose_device_may_do": "Choose what the device may do.",
    "access.choose_long_device_may": "Choose for how long the device may come in.",
    "access.device_needs_name_role": "A device needs a name, a role and a time.",
    "access.give_device_name_told": "Give the device a name, so that it can be told from others.",
}
"""What is said of input that cannot be used, by the code of its error."""
