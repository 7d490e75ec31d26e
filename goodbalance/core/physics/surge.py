"""Water hammer in a line, as bounds: what a sudden stop does, how long a wave is on its way, and how soon water turns back."""

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.water import GRAVITY_MS2


def joukowsky_pa(density_kgm3: float, wave_ms: float, change_ms: float) -> float:
    """Rise (and fall) of pressure when the velocity changes within one pipe period: dp = rho a dv (Joukowsky). [Pa]

    The largest a single line can see without column separation; slower changes give less.

    Source: Joukowsky 1898.

    >>> joukowsky_pa(1000.0, 1000.0, 1.5)
    1500000.0
    """
    for name, value in (("density_kgm3", density_kgm3), ("wave_ms", wave_ms)):
        if not value > 0.0:
            raise OutOfRange(name, value, "more than 0")
    if not change_ms >= 0.0:
        raise OutOfRange("change_ms", change_ms, "0 or more")
    return density_kgm3 * wave_ms * change_ms


def pipe_period_s(length_m: float, wave_ms: float) -> float:
    """Time a pressure wave takes to the far end and back: 2 L/a. A change slower than several of these is no shock. [s]

    Source: Joukowsky 1898.

    >>> pipe_period_s(500.0, 1000.0)
    1.0
    """
    if not length_m >= 0.0:
        raise OutOfRange("length_m", length_m, "0 or more")
    if not wave_ms > 0.0:
        raise OutOfRange("wave_ms", wave_ms, "more than 0")
    return 2.0 * length_m / wave_ms


def slowing_ms2(static_head_m: float, length_m: float, velocity_ms: float, loss_m: float) -> float:
    """How fast the column slows down once nothing pushes it: g (H_static + h_f)/L at the first moment. [m/s2]

    A check valve that is slower than v over this is met by water coming back and slams. Returns 0 for a still column.

    Source: Newton's second law for the column.
    """
    if not length_m > 0.0:
        raise OutOfRange("length_m", length_m, "more than 0")
    if not velocity_ms > 0.0:
        return 0.0
    return GRAVITY_MS2 * max(0.0, static_head_m + loss_m) / length_m
