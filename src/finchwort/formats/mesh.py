"""A mesh as text: a table a person reads, and commands a machine takes."""

from __future__ import annotations

from collections.abc import Mapping

from finchwort.core.compensation import ORDER, Mesh


def mesh_table(mesh: Mesh) -> str:
    """Write a mesh as a table, the back row first, as the bed lies before you.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    str
        Millimetres, tab between columns.

    Examples
    --------
    >>> mesh_table(Mesh([0, 10], [0, 20], [[0.0, 0.1], [-0.05, 0.2]])).splitlines()[2].split()
    ['20', '-0.050', '0.200']
    """
    lines = ["# heights in mm, positive towards the nozzle; back row first"]
    lines.append("\t".join(["y \\ x", *(f"{x:g}" for x in mesh.xs)]))
    for y, row in zip(mesh.ys[::-1], mesh.heights[::-1], strict=True):
        lines.append("\t".join([f"{y:g}", *(f"{height + 0.0:.3f}" for height in row)]))
    return "\n".join(lines)


def mesh_commands(mesh: Mesh, commands: Mapping[str, str], fade: float, level: float = 0.0) -> str:
    """Write the commands that give a machine a mesh and switch it on, in the order after homing.

    Parameters
    ----------
    mesh : Mesh
    commands : mapping
        ``home``, ``mesh_point`` (with column, row, height), ``mesh_on``, ``mesh_fade`` (with fade), ``mesh_store``;
        what is missing or empty is left out.
    fade : float
        mm; 0 for never.
    level : float
        Height taken as zero, mm.

    Returns
    -------
    str
        With the order explained in remarks.

    Examples
    --------
    >>> mesh = Mesh([0, 10], [0, 20], [[0, 0.1], [0.2, 0.3]])
    >>> said = mesh_commands(mesh, {"mesh_point": "P{column} {row} {height:.2f}", "mesh_on": "ON"}, 10)
    >>> [line for line in said.splitlines() if not line.startswith(";")]
    ['P0 0 0.00', 'P1 0 0.10', 'P0 1 0.20', 'P1 1 0.30', 'ON']
    """
    lines = ["; Read these before you send them: machines differ, and the maker's manual comes first."]
    lines += [f"; {i}. {text}" for i, text in enumerate(ORDER, 1)]

    def add(name: str, **values: float) -> None:
        if commands.get(name):
            lines.append(commands[name].format(**values))

    add("home")
    for row in range(mesh.ys.size):
        for column in range(mesh.xs.size):
            add("mesh_point", column=column, row=row, height=float(mesh.heights[row, column]) - level + 0.0)
    add("mesh_on")
    add("mesh_fade", fade=fade)
    if commands.get("mesh_store"):
        lines.append("; keep it over a restart:")
    add("mesh_store")
    return "\n".join(lines) + "\n"
