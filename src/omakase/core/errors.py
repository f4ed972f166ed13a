"""One small exception class per kind of failure, so that each caller can say what went wrong at its place."""


class OmakaseError(ValueError):
    """Root of every error that is meant to be read by a person."""


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
