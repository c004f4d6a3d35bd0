"""In the machine, and what was taken apart."""

from __future__ import annotations

from flask import Response, request
from flask.typing import ResponseReturnValue

from hale_rail.actions.behind import apart as taken
from hale_rail.actions.behind import notes, roms
from hale_rail.case.behind.roms import kept_dumps
from hale_rail.errors import NotFoundError
from hale_rail.formats.photos import MAX_BYTES
from hale_rail.stages.behind import apart, machine
from hale_rail.store import documents
from hale_rail.store.documents import DUMP
from hale_rail.web.behind import forms
from hale_rail.web.frame.case_page import case_of, store
from hale_rail.web.frame.stage_routes import Onward, stage_blueprint
from hale_rail.web.uploads import sent_bytes

blueprint = stage_blueprint(machine.STAGE)
apart_blueprint = stage_blueprint(apart.STAGE)


@blueprint.form("symptom", forms.SymptomForm)
def symptom(number: str, form: forms.SymptomForm) -> None:
    """Say what the machine shows, or take it back; the tray goes to what is next."""
    notes.say_symptom(store(), number, form.symptom.data)


@blueprint.form("chip-level", forms.LevelForm)
def chip_level(number: str, form: forms.LevelForm) -> Onward:
    """Say at which level a chip's control pins are on."""
    notes.say_level(store(), number, form.part.data, form.active.data)
    return Onward(form.at.data)


@blueprint.form("chip-facts", forms.ChipFactsForm)
def chip_facts(number: str, form: forms.ChipFactsForm) -> Onward:
    """Correct what a chip is."""
    words = notes.ChipWords(
        form.role.data, form.active.data, form.bank.data, form.bits.data,
        tuple(request.form.getlist("rails")), form.pins.data,
    )  # fmt: skip
    notes.correct_chip(store(), number, form.part.data, words)
    return Onward(form.at.data)


@blueprint.form("layout", forms.LayoutForm)
def layout(number: str, form: forms.LayoutForm) -> Onward:
    """Keep the table of a memory's chips."""
    notes.keep_layout(store(), number, form.table.data)
    return Onward(form.at.data)


@blueprint.form("rom-dump", forms.DumpForm)
def rom_dump(number: str, form: forms.DumpForm) -> Onward:
    """Keep a dump of a ROM."""
    name, data = sent_bytes("dump", "dump", roms.MAX_FILE)
    roms.keep_dump(store(), number, form.part.data, data, name, is_good=bool(form.is_good.data))
    return Onward(form.at.data)


@blueprint.form("rom-sum", forms.ChecksumForm)
def rom_sum(number: str, form: forms.ChecksumForm) -> Onward:
    """Keep the checksum that a ROM should have."""
    roms.keep_checksum(store(), number, form.part.data, form.checksum.data)
    return Onward(form.at.data)


@blueprint.form("rom-off", forms.KeyForm)
def rom_off(number: str, form: forms.KeyForm) -> Onward:
    """Take a dump off."""
    roms.drop_dump(store(), number, form.key.data)
    return Onward(form.at.data)


@blueprint.get("/machine/dumps/<key>.bin")
def dump_file(number: str, key: str) -> ResponseReturnValue:
    """A dump as it was kept."""
    case = case_of(number)
    kept = next((dump for dump in kept_dumps(case) if dump.key == key and dump.sha256), None)
    path = documents.path_of(store().folder, kept.sha256, DUMP) if kept else None
    if path is None or not path.exists():
        raise NotFoundError("There is no such dump in this case.")
    headers = {"Content-Disposition": f'attachment; filename="{number}-dump-{key}.bin"'}
    return Response(path.read_bytes(), mimetype=DUMP, headers=headers)


@apart_blueprint.form("apart", forms.ApartForm)
def take_off(number: str, form: forms.ApartForm) -> None:
    """Write down what came off; with a photo where one is sent."""
    upload = request.files.get("photo")
    photo = None
    if upload and upload.filename:
        photo = upload.filename, upload.read(MAX_BYTES + 1)
    taken.take_off(store(), number, form.text.data, form.what.data, photo)


@apart_blueprint.form("apart-back", forms.ApartLineForm)
def put_back(number: str, form: forms.ApartLineForm) -> None:
    """Tick what is back, or untick it."""
    taken.put_back(store(), number, form.key.data, is_back=form.back.data == "yes")


@apart_blueprint.form("apart-battery", forms.ApartLineForm)
def battery(number: str, form: forms.ApartLineForm) -> None:
    """Say of a battery that its place was cleaned, and what it ate."""
    clean = bool(form.is_clean.data)
    taken.say_battery(store(), number, form.key.data, is_clean=clean, ate=form.ate.data)


@apart_blueprint.form("apart-off", forms.KeyForm)
def off_the_list(number: str, form: forms.KeyForm) -> None:
    """Take a line off the list."""
    taken.take_back(store(), number, form.key.data)
