"""Owns the page of everything a brief has besides motors: supplies, locations, panel modules and devices of one's own."""

from functools import partial
from typing import Any

from pydantic import BaseModel
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from riktig.app.field_form import FieldForm, write_words
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, card, label, scrolled
from riktig.catalogue.family import DEVICE_KINDS
from riktig.job.edits import add_members, change_member, change_part, free_name, remove, set_single, with_needed_supply
from riktig.job.model import NAMED_TABLES, SINGLE_TABLES, Job
from riktig.job.names import lines_of

Place = tuple[str, str]
"""Field of the Job and name of the member, "" for a single table."""
_WORDS = {
    "info": "The job",
    "practice": "Practice of the shop",
    "supply": "Supply",
    "enclosure": "Enclosure",
    "incoming": "Main switch",
    "phase_lamps": "Phase lamps",
    "pass_through": "On to the next panel",
    "colours": "House colours",
    "risk": "Risk assessment",
    "extra_supplies": "Extra supply",
    "controls": "Control supply",
    "locations": "Location",
    "levels": "Level floats",
    "pumps": "Two pumps by turns",
    "estops": "Emergency stop",
    "phase_relays": "Phase relay",
    "controllers": "Controller",
    "ways": "Outgoing way",
    "alarms": "Alarm",
    "surges": "Surge arrester",
    "excepted": "Excepted circuit",
    "devices": "Device",
}
_LETTERS = {
    "extra_supplies": "P", "controls": "C", "locations": "place", "levels": "LEVEL", "pumps": "P", "estops": "E", "phase_relays": "K",
    "controllers": "P", "ways": "W", "alarms": "A", "surges": "F", "excepted": "X", "devices": "K",
}  # fmt: skip
_FIRST: dict[str, dict[str, Any]] = {
    "extra_supplies": {"system": "3ph+n", "volts": 400},
    "levels": {"floats": {"stop": 0.4, "start": 1.2, "alarm": 1.6}},
    "alarms": {"from_refs": ("",)},
    "excepted": {"load": "light"},
    "devices": {"kind": "pushbutton"},
}
_OPTIONAL = ("phase_lamps", "pass_through")


class TablesPage(QWidget):
    """A list of all that is there, and a form over the one chosen. Each change is one edit."""

    selected = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._place: Place | None = None
        self._form: FieldForm | None = None
        self._wanted: Place | None = None
        self.add = QPushButton(tr("Add"))
        self.add.setAccessibleName(tr("Add a module or device"))
        menu = QMenu(self.add)
        for field in [*_OPTIONAL, *_LETTERS]:
            menu.addAction(tr(_WORDS[field])).triggered.connect(lambda _=False, f=field: self.add_member(f))
        self.add.setMenu(menu)
        self.drop = button(tr("Remove"))
        self.drop.clicked.connect(self._on_drop_clicked)
        tools = QHBoxLayout()
        tools.addWidget(self.add, 1)
        tools.addWidget(self.drop, 1)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Modules and devices"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._on_list_current_changed)
        self._holder = QVBoxLayout()
        self._holder.setContentsMargins(14, 10, 14, 10)
        self._frame: QFrame = card(self._holder)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.addLayout(tools)
        layout.addWidget(self.list, 5)
        self._scroll = scrolled(self._frame)
        self._brought: QWidget | None = None
        """The field that was asked for, until it is scrolled to."""
        self._scroll.verticalScrollBar().rangeChanged.connect(lambda *_: self._scroll_to_brought())
        layout.addWidget(self._scroll, 6)

    def show_job(self, job: Job) -> None:
        """List all that is there; the chosen one stays chosen."""
        places = list_places(job)
        keep = self._wanted if self._wanted in places else self._place if self._place in places else places[0]
        self.list.blockSignals(True)
        self.list.clear()
        for place in places:
            item = QListWidgetItem(describe_place(place, job))
            item.setData(Qt.ItemDataRole.UserRole, place)
            self.list.addItem(item)
            if place == keep:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        if keep == self._wanted:
            self._wanted = None
        self.choose(keep)

    def choose(self, place: Place) -> None:
        """Show the form of a table or member."""
        job = self._session.job
        if job is None:
            return
        field, name = place
        value = member_at(job, place)
        if value is None:
            return
        if place != self._place or self._form is None:
            self._make_form(place, value)
        self._place = place
        self._mark(place)
        assert self._form is not None
        self._form.show_values(value, offered_for_tables(job))
        self.drop.setEnabled(bool(name) or field in _OPTIONAL)

    def editor(self, table: str, name: str, field: str) -> QWidget | None:
        """Return where something is decided, its form being shown; None if there is no such table, member or field.

        Args:
            table: as a brief calls it, such as `control` or `enclosure`.
        """
        job = self._session.job
        known = NAMED_TABLES if name else SINGLE_TABLES
        if job is None or table not in known or (place := (known[table][0], name)) not in list_places(job):
            return None
        self.choose(place)
        return self._form.editors.get(field) if self._form is not None else None

    def bring(self, editor: QWidget) -> None:
        """Put the cursor into a field of the form, and scroll to it; where the form is new, once it has its size."""
        editor.setFocus(Qt.FocusReason.OtherFocusReason)
        self._brought = editor
        self._scroll_to_brought()

    def _scroll_to_brought(self) -> None:
        if self._brought is not None and self._form is not None and self._form.isAncestorOf(self._brought):
            self._scroll.ensureWidgetVisible(self._brought, 0, 60)
            if not self._brought.visibleRegion().isEmpty():
                self._brought = None

    def _mark(self, place: Place) -> None:
        for row in range(self.list.count()):
            if tuple(self.list.item(row).data(Qt.ItemDataRole.UserRole)) == place and row != self.list.currentRow():
                self.list.blockSignals(True)
                self.list.setCurrentRow(row)
                self.list.blockSignals(False)

    def _make_form(self, place: Place, value: BaseModel) -> None:
        self._brought = None
        while self._holder.count():
            item = self._holder.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        fields = [field for field in type(value).model_fields if field != "name"]
        self._form = FieldForm(type(value), fields, spoken=place[1])
        self._form.changed.connect(self._on_form_changed)
        self._holder.addWidget(label(f"{place[1]}  {tr(_WORDS[place[0]])}".strip(), points=3, bold=True))
        self._holder.addWidget(self._form)
        self._holder.addStretch()

    @property
    def form(self) -> FieldForm | None:
        """The form that is shown."""
        return self._form

    def _on_list_current_changed(self, item: QListWidgetItem | None, _: Any) -> None:
        if item is not None:
            place: Place = tuple(item.data(Qt.ItemDataRole.UserRole))
            self.choose(place)
            if place[1]:
                self.selected.emit(place[1])

    def _on_form_changed(self, field: str, value: Any) -> None:
        if self._place is None:
            return
        table, name = self._place
        if name:
            edit = partial(change_member, field=table, name=name, **{field: value})
        else:
            edit = partial(change_part, field=table, **{field: value})
        self._session.apply(edit, f"{name or table}: {field}")

    def add_member(self, field: str) -> None:
        """Add a module or device with what is usual."""
        job = self._session.job
        if job is None:
            return
        if field in _OPTIONAL:
            model = SINGLE_TABLES[field][1]
            self._wanted = (field, "")
            self._session.apply(partial(set_single, field=field, value=model()), f"add {field}")
            return
        model = next(model for name, model in NAMED_TABLES.values() if name == field)
        name = free_name(job, _LETTERS[field])
        self._wanted = (field, name)
        made = model.model_validate({"name": name, **first_values(field, job)})
        self._session.apply(partial(add_with_supply, field=field, member=made), f"add {name}")

    def _on_drop_clicked(self) -> None:
        if self._place is None:
            return
        field, name = self._place
        edit = partial(remove, field=field, name=name) if name else partial(set_single, field=field, value=None)
        self._session.apply(edit, f"without {name or field}")


def add_with_supply(job: Job, field: str, member: Any) -> Job:
    """Return the Job with one more member, and with what a controller needs to run on."""
    return with_needed_supply(add_members(job, field, (member,)))


def list_places(job: Job) -> list[Place]:
    """Return every table and member of a Job that the page shows."""
    singles = [(field, "") for field, _ in SINGLE_TABLES.values() if getattr(job, field) is not None]
    fields = [field for field, _ in NAMED_TABLES.values() if field != "starters"]
    return [*singles, *((field, member.name) for field in fields for member in getattr(job, field))]


def member_at(job: Job, place: Place) -> Any:
    """Return what stands at a place of a Job, None if it is gone."""
    field, name = place
    value = getattr(job, field)
    return next((member for member in value if member.name == name), None) if name else value


def describe_place(place: Place, job: Job) -> str:
    """Return a table or member in one line."""
    value = member_at(job, place)
    told = [write_words(getattr(value, key)) for key in type(value).model_fields if key != "name"]
    facts = ", ".join([word for word in told if word and word not in {"True", "False"}][:4])
    return f"{place[1] + '  ' if place[1] else ''}{tr(_WORDS[place[0]])}   {facts}"


def first_values(field: str, job: Job) -> dict[str, Any]:
    """Return what a new member of a table begins with, so that it fits the job as it is."""
    values: dict[str, Any] = dict(_FIRST.get(field, {}))
    if field == "controls":
        lines = job.supply.lines
        values = {"kind": "psu", "from_lines": lines[:2] if len(lines) > 1 else (lines[0], "N")}
    if field == "pumps":
        pumps = [starter.name for starter in job.starters if starter.kind == "pump"]
        taken = {name for pair in job.pumps for name in pair.starters}
        free = [name for name in pumps if name not in taken]
        values = {
            "starters": tuple((*free, "M1", "M2")[:2]),
            "level": next((level.name for level in job.levels), "LEVEL1"),
        }
    if field == "alarms":
        floats = [f"{level.name}.alarm" for level in job.levels if "alarm" in level.floats]
        owned = [d.name for d in job.devices if d.kind in {"float", "thermostat", "limit-switch", "switch"}]
        values["from_refs"] = tuple((floats or owned or ["B1"])[:1])
    if field == "ways" and not job.supply.has_neutral:
        values["poles"] = min(3, len(job.supply.lines))
    if field == "extra_supplies":
        values["volts"] = job.supply.volts
    return values


def offered_for_tables(job: Job) -> dict[str, list[str]]:
    """Return the words that fields of modules and devices may be chosen from."""
    places = [place.name for place in job.locations]
    lines = [" ".join(lines_of(control, job)) for control in job.controls]
    return {
        "supply": [control.name for control in job.controls],
        "at": ["door", "plate", *places],
        "operator_panel": ["door", *places],
        "stops": ["all", *(s.name for s in job.starters)],
        "acts_on": ["all", *(s.name for s in job.starters)],
        "kind": list(DEVICE_KINDS),
        "level": [level.name for level in job.levels],
        "group_of": ["", *(control.name for control in job.controls if control.is_dc and control.group_of is None)],
        "from_lines": list(dict.fromkeys(["L1 L2", *lines])),
    }
