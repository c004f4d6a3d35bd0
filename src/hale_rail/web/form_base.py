"""What the forms share: parsing with field errors, and what was typed for a page shown again."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar, TypeVar

from flask import request
from flask_wtf import FlaskForm
from msgspec import Struct, field
from werkzeug.datastructures import CombinedMultiDict
from wtforms import HiddenField, SelectField, StringField, TextAreaField
from wtforms.fields.choices import SelectChoice
from wtforms.validators import Length

from hale_rail.core.quantities import Unit, plain_number, read
from hale_rail.errors import InputError
from hale_rail.web.addresses import whole

F = TypeVar("F", bound="Form")


class FormError(InputError):
    """A form whose fields cannot be used; `problems` by field's name."""

    def __init__(self, problems: Mapping[str, str]) -> None:
        name, text = next(iter(problems.items()))
        super().__init__(text, field=name)
        self.problems = dict(problems)


#: the forms that are drawn field by field, by the action's name
DRAWN_FORMS: dict[str, type[Form]] = {}


class Form(FlaskForm):  # type: ignore[misc]
    """A form; `parsed` is how a route gets one. Its fields are texts: files are taken apart.

    `drawn` names the actions whose form a page draws field by field; `has_own_ids`: the ids of its
    fields begin with the action's name, since another form of such fields stands on its page.
    """

    drawn: ClassVar[tuple[str, ...]] = ()
    has_own_ids: ClassVar[bool] = False

    def __init_subclass__(cls) -> None:
        DRAWN_FORMS.update(dict.fromkeys(cls.__dict__.get("drawn", ()), cls))

    class Meta(FlaskForm.Meta):  # type: ignore[misc]
        """Where a form's fields come from; its token is checked before any route is asked."""

        csrf = False

        def wrap_formdata(self, form: Form, formdata: Any) -> Any:
            """What was sent as text; a file under a field's name is not one of it."""
            wrap_formdata = super().wrap_formdata(form, formdata)
            return request.form if isinstance(wrap_formdata, CombinedMultiDict) else wrap_formdata

    @classmethod
    def parsed(cls: type[F]) -> F:
        """The form as sent; raises FormError with every field's problem."""
        form = cls()
        if not form.validate():
            problems = {name: str(texts[0]) for name, texts in form.errors.items() if name}
            raise FormError(problems or {"": "That form was not understood. Reload the page."})
        return form


def at_most(characters: int) -> Length:
    """A text's length is limited."""
    return Length(max=characters, message=f"At most {characters} characters.")


def choices(*pairs: tuple[str, str]) -> list[SelectChoice]:
    """What a select offers, each as value and words."""
    return [SelectChoice(value, words) for value, words in pairs]


class TextField(StringField):  # type: ignore[misc]
    """A text without the spaces around it; "" where it is absent."""

    data: str

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Take the text, tidied at its ends."""
        self.data = valuelist[0].strip() if valuelist else ""


class ReadField(TextField):
    """A text that is read into a value: `value`, None where it is empty and may be.

    `reader` raises InputError for a text that it does not understand.
    """

    def __init__(
        self,
        label: str,
        reader: Callable[[str], object],
        *,
        is_needed: bool = False,
        **more: Any,
    ) -> None:
        super().__init__(label, **{"validators": [at_most(24)], **more})
        self.reader, self.is_needed = reader, is_needed
        self.value: Any = None

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read the text; what is wrong with it is beside the field."""
        super().process_formdata(valuelist)
        if self.data or self.is_needed:
            try:
                self.value = self.reader(self.data)
            except InputError as error:
                raise ValueError(str(error)) from error


class QuantityField(ReadField):
    """A quantity as a person writes it, its value in SI; `above_zero`: others are refused."""

    def __init__(self, label: str, unit: Unit, *, above_zero: bool = False, **more: Any) -> None:
        def quantity(text: str) -> float:
            value = read(text, unit, allow_words=False).value
            if above_zero and not value > 0:
                raise InputError("It must be above 0.")
            return value

        super().__init__(label, quantity, **more)


class PerCentField(ReadField):
    """Per cent, with the sign or without, its value as a share."""

    def __init__(self, label: str, **more: Any) -> None:
        def share(text: str) -> float:
            try:
                return plain_number(text.rstrip("% ")) / 100
            except InputError as error:
                raise InputError("A number of per cent, such as 15.") from error

        super().__init__(label, share, **more)


class PlacedField(HiddenField):  # type: ignore[misc]
    """A text that the page itself put there; "" where it is absent."""

    data: str

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Take the text."""
        self.data = valuelist[0] if valuelist else ""


class AreaField(TextAreaField):  # type: ignore[misc]
    """A text of several lines; "" where it is absent."""

    data: str

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Take the text."""
        self.data = valuelist[0] if valuelist else ""


class ChoiceField(SelectField):  # type: ignore[misc]
    """One of several; "" where none is sent."""

    data: str

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Take the choice."""
        self.data = valuelist[0] if valuelist else ""


class WholeField(HiddenField):  # type: ignore[misc]
    """A whole number that the page itself put there, such as an id; `absent` where it is not sent.

    It is 0 as a rule, which is no row's id.
    """

    data: Any

    def __init__(self, *, absent: int | None = 0, **more: Any) -> None:
        super().__init__(**more)
        self.absent = absent

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read the number; refuses what no page of ours sends."""
        text = valuelist[0].strip() if valuelist else ""
        try:
            self.data = whole(text) if text else self.absent
        except ValueError as error:
            raise ValueError("That is no longer on this page. Reload it.") from error


class CaseForm(Form):
    """A form on a case's page: the point in the tray, and what the page was asked for by."""

    at = PlacedField(validators=[Length(max=120)])
    by = PlacedField(validators=[Length(max=20)])


class FormState(Struct, frozen=True):
    """What was sent and could not be used: which form, its values, its problems by field.

    A page that is shown again shows the values in the form's fields, and the problems beside them;
    `told` collects those that it showed, so that one without a place can stand at the top.
    """

    form: str = ""
    values: Mapping[str, str] = field(default_factory=dict)
    problems: Mapping[str, str] = field(default_factory=dict)
    is_conflict: bool = False
    told: set[str] = field(default_factory=set)

    @property
    def is_told(self) -> bool:
        """True once a page showed what is wrong with the form."""
        return bool(self.told)

    def value(self, form: str, name: str, usual: object = "") -> object:
        """What is in a field: what was typed, or what usually stands there."""
        return self.values.get(name, usual) if form == self.form else usual

    def problem(self, form: str, name: str | None = None) -> str:
        """What is wrong with a field, or (None) the first thing that is wrong with a form."""
        if form != self.form:
            return ""
        first = next(iter(self.problems.values()), "")
        text = first if name is None else self.problems.get(name, "")
        if text:
            self.told.add(text)
        return text

    def has_problem(self, form: str) -> bool:
        """True when this form could not be used."""
        return form == self.form and bool(self.problems)
