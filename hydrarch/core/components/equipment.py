"""Equipment with ends of its own: a pressure vessel, and whatever else a crew has, by its ports."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from hydrarch.core.components.base import (
    EQUIPMENT_ENDS,
    Kind,
    Model,
    PortSpec,
    What,
    field,
    listed,
    register,
    thread_port,
)

__all__ = ["Equipment", "OwnPort", "Vessel"]


class Vessel(What):
    """A pressure vessel at the end of a branch: `volume` (m³); the pump starts at `cut_in` and stops at `cut_out` (Pa,
    gauge).
    """

    kind: Literal["vessel"] = "vessel"
    volume: float = field(0.1, "Volume", "volume", gt=0, le=10)
    cut_in: float = field(200e3, "Pump starts at", "pressure", gt=0, le=2e6)
    cut_out: float = field(340e3, "Pump stops at", "pressure", gt=0, le=2e6)

    @model_validator(mode="after")
    def _band(self) -> Vessel:
        if self.cut_out <= self.cut_in:
            raise ValueError("the pump must stop at a higher pressure than it starts at")
        return self


class OwnPort(Model):
    """A port of a piece of equipment: its name, whether water goes in or out there, its end, and its height (m) above
    the thing.
    """

    name: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,20}$", title="Port")]
    role: Literal["in", "out", "any"] = Field("any", title="Way")
    end: Annotated[str, Field(max_length=60)] = Field(
        "npt:female:1", title="End", json_schema_extra={"quantity": "end"}
    )
    height: float = field(0.0, "Height above the thing", "length", ge=-20, le=20)


class Equipment(What):
    """A piece of equipment as its maker made it: what it is, its ports, and what it loses (Pa) at a flow (m³/s), as
    flow squared.

    Water goes from ports that take it in to ports that let it out; ports that do either are as one.
    """

    kind: Literal["equipment"] = "equipment"
    what: Annotated[str, Field(max_length=80)] = Field("", title="What it is")
    loss: float = field(0.0, "Loss", "pressure", ge=0, le=1e6)
    at_flow: float = field(0.001, "at flow", "flow", ge=1e-7, le=1)
    own_ports: tuple[OwnPort, ...] = listed(
        8, (OwnPort(name="in", role="in"), OwnPort(name="out", role="out")), min_length=1, title="Ports"
    )

    @model_validator(mode="after")
    def _apart(self) -> Equipment:
        names = [p.name for p in self.own_ports]
        if len(set(names)) != len(names):
            raise ValueError("two ports of one thing share a name; give each its own")
        return self

    @property
    def hangs(self) -> bool:
        """Whether it is fixed to nothing but what it is screwed to: every end of it is a hose's."""
        return all(p.end.startswith("hose:") for p in self.own_ports)

    def ports(self) -> tuple[PortSpec, ...]:
        """Its ports as a kind has them."""
        return tuple(
            PortSpec(
                p.name,
                p.role,
                p.name,
                given=dict.fromkeys(("north-american", "elsewhere", "both"), p.end),
                ends=EQUIPMENT_ENDS,
                height=p.height,
                serves=True,
                needs=False,
            )
            for p in self.own_ports
        )


register(
    Kind(
        model=Vessel,
        title="Pressure vessel",
        letter="PV",
        role="end",
        ports=(thread_port("line", "any", "Inlet", "1", serves=True),),
        needs="one run",
        bears=True,
    )
)
register(
    Kind(
        model=Equipment,
        title="Equipment",
        letter="E",
        role="device",
        ports=Equipment.ports,
        needs="a run at each port that is used",
        bears=True,
    )
)
