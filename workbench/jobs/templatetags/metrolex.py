"""How figures, units, states and wire colours are printed. Every page goes through here."""

from __future__ import annotations

import datetime
import functools
import math
import re
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django import template
from django.template.base import Parser, Token
from django.template.defaulttags import URLNode
from django.template.defaulttags import url as django_url
from django.urls import reverse
from django.utils import timezone
from django.utils.html import conditional_escape, format_html
from django.utils.safestring import SafeString

from metrolex.check import Row
from metrolex.job import ENGINE_WORDS, KEY_STATES, LAMP_STATES, Job, MeasuringChain, RoadCount, State
from metrolex.job.state_words import state_in_words
from metrolex.places import LINKS, PLACES, Link, Place
from metrolex.ports.compare import Candidate
from metrolex.quantities import rounded, unit_words
from metrolex.topology import topology_of
from metrolex.twin import addresses
from workbench.jobs.look import Look
from workbench.marks import mark
from workbench.sheet_cell import SheetCell, reading_typed

register = template.Library()

NOTHING = "--"


@register.filter
def clock(moment: datetime.datetime) -> str:
    """A moment in the time of who looks: '15:20' today, 'tomorrow 15:20', 'Thu 3 Dec 15:20'."""
    moment = timezone.localtime(moment)
    days = (moment.date() - timezone.localdate()).days
    said = {0: "", 1: "tomorrow "}.get(days, f"{moment:%a} {moment.day} {moment:%b} ")
    return f"{said}{moment:%H:%M}"


@register.filter
def wall(moment: datetime.datetime) -> str:
    """A moment as the clock on the wall of the workshop shows it, wherever who looks is: '15:20'."""
    return f"{moment:%H:%M}"


@register.filter
def fig(value: float | str | None, digits: int | str = 2) -> str:
    """A number with a fixed count of digits, '--' for none: ``{{ volts|fig:1 }}``."""
    if value is None or value == "":
        return NOTHING
    places = int(digits)
    text = f"{rounded(float(value), places):.{places}f}"
    return text.lstrip("-") if float(text) == 0 else text


@register.filter
def short(value: float | str | None) -> str:
    """A number as short as it can be said, '--' for none."""
    return NOTHING if value is None or value == "" else f"{float(value):g}"


@register.filter
def metres(value: float | None) -> str:
    """A length of wire."""
    return NOTHING if value is None else f"{float(value):.2f} m"


@register.filter
def has_figure(words: str) -> bool:
    """Whether a finding's figure is a figure, not only words."""
    return any(letter.isdigit() for letter in words) and len(words) < 40


@register.filter
def millimetres(length_m: float | None) -> str:
    """A length in metres as whole millimetres."""
    return NOTHING if length_m is None else f"{1000 * float(length_m):.0f} mm"


@register.filter
def unbroken(words: str) -> str:
    """Words whose figures stay with their fraction, their unit and the rest of their thread at the end of a line."""
    held = re.sub(
        r"(?<=\d) (?=\d+/\d|mm²?\b|in\b|L\b|N m|m[AV]?\b|[kM]?[AVWΩ]\b|mΩ|%|bar\b|psi\b|kPa\b|s\b|h\b|turns?\b|°)",
        "\u00a0",
        words,
    )
    return re.sub(r"(?<=\d)-(?=\d+ (?:NPT|UN))", "\u2011", held)


@register.filter
def split(words: str) -> list[str]:
    """Words parted at spaces."""
    return words.split()


@register.filter
def after(words: str, stem: str) -> str:
    """What follows a stem: ``'way:w1'|after:'way:'`` is 'w1'; '' where it does not stand there."""
    return words.removeprefix(stem) if words.startswith(stem) else ""


@register.filter
def amps(value: float) -> str:
    """A current, small ones in milliampere."""
    size = abs(float(value))
    return f"{size:.2f} A" if size >= 0.1 else f"{1000 * size:.3g} mA"


@register.filter
def milliohms(ohm: float | None) -> str:
    """A resistance in ohm as milliohms."""
    return NOTHING if ohm is None else f"{1000 * float(ohm):.3g}"


@register.filter
def signed_to(value: float | None, digits: int | str) -> str:
    """A difference with its sign, to a fixed count of digits; none on a nought."""
    if value is None:
        return NOTHING
    text = f"{float(value):+.{int(digits)}f}"
    return text.replace("-", "−") if float(text) else text[1:]


@register.filter
def sized(value: float | None) -> str:
    """A size of unknown magnitude, to two figures that matter: 0.37, 4.1, 23."""
    if value is None:
        return NOTHING
    size = abs(float(value))
    if math.isnan(size):
        return "no number"
    if size >= 10:
        return f"{size:.0f}"
    return "0" if size < 1e-6 else f"{size:.1f}" if size >= 1 else f"{size:.2g}"


@register.filter
def above_below(volts: float) -> str:
    """How one ground stands to another: '48 mV below'."""
    value = float(volts)
    if abs(value) < 0.0005:
        return "level with"
    return f"{abs(1000 * value):.0f} mV {'below' if value < 0 else 'above'}"


@register.filter
def thousand(ratio: float) -> float:
    """What shows at a thousand by a ratio."""
    return 1000 * float(ratio)


@register.filter
def over_pct(shown: float, true: float) -> str:
    """How far a shown value is over a true one, in percent."""
    return f"{100 * (float(shown) / float(true) - 1):.1f} %"


@register.filter
def cost_marks(cost: int) -> str:
    """A relative cost of 0 to 4 as filled and empty squares."""
    return "■" * int(cost) + "□" * (4 - int(cost))


@register.filter
def word_for(candidate: Candidate, criterion: str) -> str:
    """The mark of a place by one criterion, in words."""
    return str(candidate.word(criterion))


@register.filter
def unit(word: str) -> str:
    """A unit as printed: 'degC' is '°C'."""
    return unit_words(word)


@register.filter
def said(word: object) -> str:
    """A word of the core in plain words: 'ignition_crank' is 'run and crank'."""
    words = {
        "ignition_crank": "run and crank",
        "ignition": "run",
        "mm2": "mm²",
        "on_off": "switch, on and off",
        "pull_up": "pull-up",
        "thermocouple": "thermocouple",
        "loop": "current loop",
        "pulse": "pulses",
        "supply": "own supply",
    }
    return words.get(str(word), str(word).replace("_", " "))


register.simple_tag(mark)


@register.filter
def digits_for(unit_name: str) -> int:
    """How many digits a measured value of this unit is printed with."""
    return {"V": 2, "ohm": 0, "degC": 0, "bar": 1}.get(unit_name, 1)


@register.filter
def percent(share: float) -> str:
    """A share of one as a whole percent."""
    return f"{100 * float(share):.0f}"


@register.filter
def switch_groups(state: State, job: Job) -> list[dict[str, Any]]:
    """The groups of buttons of the key switch and of the job's own switches, each button with whether it stands there."""
    keys = (
        ("Key", "key", KEY_STATES, state.key),
        ("Lamps", "lamps", LAMP_STATES, state.lamps),
        ("Engine", "engine", ("stopped", "running"), "running" if state.running else "stopped"),
    )
    own = (switch for switch in job.switches if switch.kind != "relay")
    return [
        *(
            {
                "name": name,
                "field": field,
                "buttons": [(word, word, word == now) for word in words],
                "more": [(point, words, point == state.point) for point, words in ENGINE_WORDS.items()]
                if field == "engine"
                else [],
            }
            for name, field, words, now in keys
        ),
        *(
            {
                "name": switch.name,
                "field": "switch",
                "buttons": [
                    (
                        f"{switch.id}|{int(thrown)}",
                        switch.position(thrown=thrown),
                        (switch.id in state.thrown) == thrown,
                    )
                    for thrown in (False, True)
                ],
            }
            for switch in own
        ),
    ]


@register.filter
def switches_stand(state: State, job: Job) -> str:
    """Where the job's own switches stand, one a line, as their buttons say it."""
    return "\n".join(
        f"{switch.id}|{int(switch.id in state.thrown)}" for switch in job.switches if switch.kind != "relay"
    )


@register.filter
def state_words(state: State, job: Job) -> str:
    """A state as one says it, the job's own switches by their names."""
    return state_in_words(job, state)


@register.simple_tag
def places() -> tuple[Place, ...]:
    """The places of work."""
    return PLACES


@register.simple_tag
def links() -> tuple[Link, ...]:
    """The links of a chain, in the order of the board."""
    return tuple(link for link, _ in LINKS)


@register.simple_tag
def stage_url(stage: str, job: int) -> str:
    """Where a stage of the job is worked on."""
    return reverse(f"{stage}:show", args=[job])


@register.filter
def signal_colour(row: Row, job: Job) -> str:
    """The colour code of the wire that carries a row's signal, 'none' while there is none."""
    wire = topology_of(job).signal_wire(row.channel)
    return (wire.look.colour or "GY") if wire else "none"


@register.simple_tag
def link_url(link: str, channel: str, job: int) -> str:
    """Where one link of one channel's chain is worked on."""
    place = next(place for known, place in LINKS if known.key == link)
    return f"{reverse(f'{place}:show', args=[job])}?{urlencode({'channel': channel})}"


@register.filter
def short_true(value: float, channel: MeasuringChain) -> str:
    """A true value with one digit more than the face shows."""
    return f"{value:.{channel.scaling.decimals + 1}f}"


@register.filter
def place_share(row: Row) -> str:
    """What the place of a sender adds to or takes from what is wanted: 'the place adds 3: coolant itself is 87.0'."""
    does = "adds" if row.bias > 0 else "takes"
    wanted = NOTHING if row.wanted is None else short_true(row.wanted, row.channel)
    name = row.channel.name
    name = name if name[1:2].isupper() else name[:1].lower() + name[1:]
    return f"the place {does} {abs(row.bias):g}: {name} itself is {wanted}"


@register.filter
def board_foot(look: Look) -> list[dict[str, str]]:
    """The sums under the board: taps, grounds, crank volts, wire."""
    found = []
    for tap in look.job.taps:
        amps = abs(look.solved.solution.currents.get(addresses.tap(tap.id), 0.0))
        fuse = f"{tap.fuse_a:g} A fuse" if tap.fuse_a else "no fuse"
        found.append({"figure": f"{amps:.2f}", "words": f"A through {tap.id} at {tap.circuit}, {fuse}"})
    for point in look.job.grounds:
        volts = look.solved.volts(addresses.ground_node(point.id))
        if volts is not None:
            found.append({"figure": f"{1000 * volts:.0f}", "words": f"mV at ground {point.id}"})
    return found


@register.filter
def signed(value: float) -> str:
    """A number that always carries its sign."""
    return f"{value:+g}".replace("-", "−")


@register.filter
def millivolts(volts: float) -> str:
    """Volts in whole millivolts."""
    return NOTHING if volts is None else f"{1000 * volts:.0f}"


@register.filter
def fig_for(value: float | None, unit_name: str) -> str:
    """A number with the digits its unit is measured to."""
    return fig(value, digits_for(unit_name))


@register.simple_tag(takes_context=True)
def seen(context: template.Context) -> SafeString:
    """The version of the job a form is made from, posted with it; what was typed before keeps the version it was typed at."""
    request, record = context["request"], context["record"]
    version = str(record.version)
    if getattr(request, "kept_typed", False):
        version = str(getattr(request, "told", None) or "") or request.POST.get("seen", version)
    return _seen_field(version)


@functools.lru_cache(256)
def _seen_field(version: str) -> SafeString:
    return format_html('<input type="hidden" name="seen" value="{}">', version)


register.filter("typed", reading_typed)


@register.simple_tag(takes_context=True)
def sheet_cell(context: template.Context, cell: SheetCell, action: str) -> SafeString:
    """A figure of a sheet in a form of its own, posted to ``action``."""
    return cell.form(action, _guards(context["csrf_token"], seen(context)))


@functools.lru_cache(256)
def _guards(token: str, version: SafeString) -> SafeString:
    return format_html('<input type="hidden" name="csrfmiddlewaretoken" value="{}">{}', token, version)


@register.simple_tag(takes_context=True)
def here(context: template.Context) -> str:
    """The page to come back to: the one shown; its place's own where a form was refused or only a part of the page is made anew."""
    request, place = context["request"], context.get("place", "")
    if request.method == "GET" and not context.get("fragment"):
        return str(request.get_full_path())
    return reverse(f"{place}:show" if place else "jobs:board", args=[context["record"].pk])


class _Address(URLNode):
    """Django's ``url``, which looks an address up among all patterns anew for each of a page's hundreds of links."""

    def render(self, context: template.Context) -> str:
        if self.kwargs or self.asvar:
            return super().render(context)
        args = tuple(arg.resolve(context) for arg in self.args)
        return _address(self.view_name.resolve(context), args)


@functools.lru_cache(4096)
def _address(view: str, args: tuple[Any, ...]) -> str:
    return conditional_escape(reverse(view, args=args))


@register.tag
def url(parser: Parser, token: Token) -> URLNode:
    """As Django's own tag of that name."""
    node = django_url(parser, token)
    return _Address(node.view_name, node.args, node.kwargs, node.asvar)


@register.filter
def road_words(road: RoadCount) -> str:
    """How a speed setting was found and what stood there before: '(pulses per km), by 3 GPS runs; before: 5070 as delivered.'"""
    count = len(road.runs)
    runs = f", by {count} GPS run{'s' * (count > 1)}" if count else ""
    before = "".join(f"; before: {short(old.setting)} {old.why}".rstrip() for old in road.before)
    return f"({said(road.enters)}){runs}{before}."


@dataclass(frozen=True, slots=True)
class Room:
    """A page of a place that has several."""

    key: str
    name: str
    address: str
    of_channel: bool = True


@register.simple_tag
def scaling_rooms() -> tuple[Room, ...]:
    """The pages of Scaling."""
    return (
        Room("bench", "Bench", "scaling:show"),
        Room("measured", "Measured", "scaling:measured"),
        Room("points", "Operating points", "scaling:points", of_channel=False),
        Room("error", "Error", "scaling:error"),
        Room("suits", "Does it suit", "scaling:suits"),
        Room("warnings", "Warnings", "scaling:warnings"),
        Room("fuel", "Fuel", "scaling:fuel", of_channel=False),
        Room("menu", "Set-up sheets", "scaling:menu", of_channel=False),
    )
