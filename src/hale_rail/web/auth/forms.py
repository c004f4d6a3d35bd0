"""Forms to sign in, and for the bench's own name."""

from __future__ import annotations

import re

from wtforms import PasswordField
from wtforms.validators import DataRequired, Length

from hale_rail.store.log import LONGEST_BENCH
from hale_rail.web.form_base import Form, PlacedField, TextField

_NO_PRINT = re.compile(r"[\x00-\x1f\x7f]")


class BenchField(TextField):
    """The name of a person or a place, on one line."""

    def process_formdata(self, valuelist: list[str]) -> None:  # type: ignore[override]
        """Take the name, without what does not print."""
        super().process_formdata([_NO_PRINT.sub(" ", text) for text in valuelist])


def _length() -> Length:
    return Length(max=LONGEST_BENCH, message=f"At most {LONGEST_BENCH} characters.")


class SignInForm(Form):
    """The passphrase, and who is there; `kept` is what was typed before the session ended."""

    phrase = PasswordField("Passphrase", validators=[DataRequired("The workshop’s passphrase.")])
    bench = BenchField(
        "Name of this bench", validators=[DataRequired("Your name, or the bench’s."), _length()]
    )
    after = PlacedField()
    kept = PlacedField()


class BenchForm(Form):
    """The bench's own name; an empty one takes it away."""

    bench = BenchField("Name of this bench", validators=[_length()])
