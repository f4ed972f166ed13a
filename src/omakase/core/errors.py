"""One small exception class per kind of failure, so that each caller can say what went wrong at its place."""


class OmakaseError(ValueError):
    """Root of every error that is meant to be read by a person."""


def both_units(*lengths: float, between: str = " × ") -> str:
    """Lengths in m as words in mm and in inches, for messages from where the reader's units are not known."""
    millimetres = between.join(f"{length * 1e3:.6g}" for length in lengths)
    inches = between.join(f"{length / 0.0254:.4g}" for length in lengths)
    return f"{millimetres} mm ({inches} in)"


class MaterialError(OmakaseError):
    """A material record is incomplete or holds an impossible value."""


class LayupError(OmakaseError):
    """A stack of layers cannot be a laminate or sandwich."""


class PanelError(OmakaseError):
    """A panel's size, supports or loads make no sense."""


class SolverError(OmakaseError):
    """The equations could not be solved, most often because the panel is not held."""


class SpecimenError(OmakaseError):
    """A test's data or a specimen's sizes make no sense."""


class MemberError(OmakaseError):
    """A strip's, tube's or other member's size, supports or loads make no sense."""
