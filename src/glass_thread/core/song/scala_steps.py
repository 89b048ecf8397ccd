"""The steps of a Scala scale, on a tonic or as a keyboard mapping lays them."""

from __future__ import annotations

from dataclasses import dataclass

from ..signal.errors import ParameterError
from ..signal.units import hz_to_midi
from .temperaments import OCTAVE, Steps, folded, keyboard_steps, twelve_on

MIDDLE_C = 60
MOST_STEPS_AN_OCTAVE = 120
_NEAR_AN_OCTAVE = 0.5  # semitones


@dataclass(frozen=True)
class ScalaScale:
    """A scale: what it is called, and semitones above 1/1 of each further step, the last being the period's."""

    title: str
    heights: tuple[float, ...]

    @property
    def period(self) -> float:
        """Semitones after which the scale repeats."""
        return self.heights[-1]

    def at(self, degree: int) -> float:
        """Semitones of a degree above 1/1, which is degree 0; further on in the next periods."""
        periods, step = divmod(degree, len(self.heights))
        return periods * self.period + (self.heights[step - 1] if step else 0.0)


@dataclass(frozen=True)
class KeyboardMap:
    """Which key of a MIDI keyboard plays which degree of a scale.

    `degrees` are those of the keys from `middle_key` on, None for keys that play nothing, and repeat with
    `octave_degree` added; none at all means one key after the other.  `reference_key` sounds at `reference_hz`.
    """

    middle_key: int
    reference_key: int
    reference_hz: float
    octave_degree: int = 0
    degrees: tuple[int | None, ...] = ()


def scala_steps(
    scale: ScalaScale, keyboard: KeyboardMap | None, tonic: int, *, reference_key: int, reference_midi: float
) -> Steps:
    """The steps of a scale.

    Without a keyboard mapping 1/1 is the tonic: twelve steps to the octave lie as those of any temperament do, of
    others 1/1 lies where equal temperament has the tonic in octave 4.

    Raises
    ------
    ParameterError
        If there are too many steps, or the mapping's reference plays nothing.
    """
    if keyboard is not None:
        return _mapped(scale, keyboard)
    _few_enough(len(scale.heights), scale.period)
    inside = (0.0, *scale.heights[:-1])
    if len(inside) == OCTAVE and abs(scale.period - OCTAVE) < 1e-6 and list(inside) == sorted(inside):
        return twelve_on(inside, tonic, reference_key=reference_key, reference_midi=reference_midi)
    heights, keys = folded(inside, range(len(inside)), scale.period, len(inside))
    base = MIDDLE_C + tonic + reference_midi - reference_key
    return Steps(heights, base, scale.period, keys, MIDDLE_C + tonic, len(inside), twelve=False)


def _few_enough(count: int, period: float) -> None:
    if count > period / OCTAVE * MOST_STEPS_AN_OCTAVE:
        raise ParameterError(f"A scale can have at most {MOST_STEPS_AN_OCTAVE} steps to the octave.")


def _mapped(scale: ScalaScale, keyboard: KeyboardMap) -> Steps:
    degrees, count = keyboard.degrees or tuple(range(len(scale.heights))), len(scale.heights)
    beyond = next((degree for degree in degrees if degree is not None and degree > count), None)
    if beyond is not None:
        raise ParameterError(
            f"This keyboard mapping names degree {beyond}, and the scale has {count}: it is for another scale."
        )
    period = scale.at(keyboard.octave_degree) if keyboard.degrees else scale.period
    played = [(scale.at(degree), key) for key, degree in enumerate(degrees) if degree is not None]
    if not played or period <= 0.0:
        raise ParameterError("This keyboard mapping has no key that plays a note, or repeats at no interval.")
    _few_enough(len(played), period)
    heights, keys = folded([height for height, _ in played], [key for _, key in played], period, len(degrees))
    raised = tuple(height - heights[0] for height in heights)
    steps = Steps(raised, 0.0, period, keys, keyboard.middle_key, len(degrees), twelve=False)
    unplaced = steps.pitch_of(keyboard.reference_key)
    if unplaced is None:
        raise ParameterError(f"The reference key {keyboard.reference_key} of this keyboard mapping plays no note.")
    base = float(hz_to_midi(keyboard.reference_hz)) - unplaced
    steps = Steps(raised, base, period, keys, keyboard.middle_key, len(degrees), twelve=False)
    return _as_keyboard(steps) or steps


def _as_keyboard(steps: Steps) -> Steps | None:
    """The same steps named as a keyboard's, where they are twelve to about an octave, one key above the other."""
    if len(steps.heights) != OCTAVE or steps.keys_per_period != OCTAVE or abs(steps.period - OCTAVE) > _NEAR_AN_OCTAVE:
        return None
    pitches = [steps.pitch_of(key) for key in range(OCTAVE)]
    rising = [pitch for pitch in pitches if pitch is not None]
    if len(rising) < OCTAVE or rising != sorted(rising) or rising[-1] >= rising[0] + steps.period:
        return None
    found = keyboard_steps(lambda key: rising[key])
    return Steps(found.heights, found.base_midi, steps.period)
