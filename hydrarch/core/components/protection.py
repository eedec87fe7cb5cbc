"""What protects people and lines, or endangers drinking water: relief valves, expansion tanks and injectors."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hydrarch.core.components.base import Kind, PortSpec, What, field, given_thread, register, thread_port

__all__ = ["ExpansionTank", "Injector", "ReliefValve"]


class ReliefValve(What):
    """A relief valve that opens at `opens` (Pa, gauge); one for a heater opens by temperature too."""

    kind: Literal["relief"] = "relief"
    opens: float = field(700e3, "Opens at", "pressure", gt=0, le=5e6)
    senses: Literal["pressure", "pressure and temperature"] = Field("pressure", title="It opens by")


class ExpansionTank(What):
    """A tank that takes up what water grows by as a heater warms it: `volume` (m³) of it, and the air it was filled
    with before water came to it, its `precharge` (Pa, gauge), None where nobody measured it.
    """

    kind: Literal["expansion_tank"] = "expansion_tank"
    volume: float = field(0.018, "Volume", "volume", gt=0, le=10)
    precharge: float | None = field(None, "Precharge, blank if not measured", "pressure", ge=0, le=1e6)


class Injector(What):
    """An injector that adds fertilizer or another chemical to the water: it loses `loss` (Pa) at `at_flow` (m³/s), as
    the square of flow.
    """

    kind: Literal["injector"] = "injector"
    loss: float = field(50e3, "Loss", "pressure", ge=0, le=1e6)
    at_flow: float = field(0.001, "at flow", "flow", ge=1e-7, le=1)


register(
    Kind(
        model=ReliefValve,
        title="Relief valve",
        letter="RV",
        role="device",
        ports=(PortSpec("in", "any", "Inlet", given=given_thread("3/4")),),
        needs="one run; its outlet is led open to where it scalds nobody",
    )
)
register(
    Kind(
        model=ExpansionTank,
        title="Expansion tank for hot water",
        letter="XT",
        role="end",
        ports=(thread_port("line", "any", "Inlet", "3/4", serves=True),),
        needs="one run",
        bears=True,
    )
)
register(
    Kind(
        model=Injector,
        title="Fertilizer injector",
        letter="FI",
        role="device",
        ports=(
            PortSpec("in", "in", "Inlet", given=given_thread("3/4"), serves=True),
            PortSpec("out", "out", "Outlet", given=given_thread("3/4"), serves=True),
        ),
        needs="two runs, one at each side",
    )
)
