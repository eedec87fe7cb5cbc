"""Properties of water at about atmospheric pressure, by temperature."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.units import STANDARD_GRAVITY, check_range

__all__ = ["Water", "density_kell", "viscosity_kestin", "water"]


def density_kell(temperature: float) -> float:
    """Density (kg/m³) of water at `temperature` (K), 273.15 to 373.15 K, at 101.325 kPa.

    Source: G. S. Kell, J. Chem. Eng. Data 20 (1975) 97, rational form.

    >>> round(density_kell(293.15), 1)
    998.2
    """
    t = _celsius(temperature)
    over = 999.83952 + t * (
        16.945176 + t * (-7.9870401e-3 + t * (-46.170461e-6 + t * (105.56302e-9 - t * 280.54253e-12)))
    )
    return over / (1 + 16.87985e-3 * t)


def viscosity_kestin(temperature: float) -> float:
    """Dynamic viscosity (Pa·s) of water at `temperature` (K), 273.15 to 373.15 K.

    Source: Kestin, Sokolov and Wakeham, J. Phys. Chem. Ref. Data 7 (1978) 941: 1.002 mPa·s at 20 °C and a
    correlation in 20 − t.

    >>> round(viscosity_kestin(293.15) * 1e3, 3)
    1.002
    """
    t = _celsius(temperature)
    d = 20 - t
    return float(1.002e-3 * 10 ** (d / (t + 96) * (1.2364 - 1.37e-3 * d + 5.7e-6 * d**2)))


def _celsius(temperature: float) -> float:
    t = temperature - 273.15
    check_range("water temperature", temperature, 273.15, 373.15, "temperature")
    return t


@dataclass(frozen=True, slots=True)
class Water:
    """Water at one temperature: density (kg/m³) and dynamic viscosity (Pa·s)."""

    temperature: float
    density: float
    viscosity: float

    @property
    def weight(self) -> float:
        """Specific weight (N/m³): pressure (Pa) of one metre of head."""
        return self.density * STANDARD_GRAVITY


@remembered()
def water(temperature: float) -> Water:
    """Water at `temperature` (K); raises `OutOfRange` outside 0 to 100 °C."""
    return Water(temperature, density_kell(temperature), viscosity_kestin(temperature))
