"""What every question to the server is: what it does not know is refused, not passed over."""

from pydantic import BaseModel, ConfigDict


class Input(BaseModel):
    """Base of all that is asked: no unknown fields, no NaN."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
