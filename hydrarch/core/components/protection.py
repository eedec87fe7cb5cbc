"""What protects people and lines, or endangers drinking water: relief valves and injectors."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hydrarch.core.components.base import Kind, PortSpec, What, field, given_thread, register

__all__ = ["Injector", "ReliefValve"]


class ReliefValve(What):
    """A relief valve that opens at `opens` (Pa, gauge); one for a heater opens by temperature too."""

    kind: Literal["relief"] = "relief"
    opens: float = field(700e3, "Opens at", "pressure", gt=0, le=5e6)
    senses: Literal["pressure", "pressure and temperature"] = Field("pressure", title="It opens by")


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
