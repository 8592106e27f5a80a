"""What every question to the server is: what it does not know is refused, not passed over."""

from juglant.core.recipes.fields import Strict


class Input(Strict):
    """Base of all that is asked."""
