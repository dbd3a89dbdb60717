"""What somebody at a desk can do at a place: the commands that its doors, outputs, sirens, speakers and cameras take.

One more sort of thing is one function with `@offers`; what is wanted first stands first. Each offer is a step of the language of rules, so that a command by hand
is put together, checked and sent as a rule's is.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from dromikon.core.facts import Facts, Point
from dromikon.core.registry import Registry
from dromikon.core.rules.actions import Action, Firing, Order
from dromikon.core.rules.actions.announce import AnnounceAction
from dromikon.core.rules.actions.door import DoorAction
from dromikon.core.rules.actions.ptz import PtzAction
from dromikon.core.rules.actions.relay import RelayAction
from dromikon.core.rules.actions.signal import SignalAction, silenced
from dromikon.core.rules.parts import Ref, seconds
from dromikon.core.rules.target import Target
from dromikon.core.words import N_, t

#: An output is switched on by hand for so many seconds: a moment, and as long as somebody looks.
MOMENT, WHILE = 5.0, 300.0


@dataclass(frozen=True, slots=True)
class Offer:
    """One command. `key`: by which it is asked for; `short`: what its button reads beside the point's name. `says`: it wants
    words. `asks`: what is asked before, empty for nothing. `lets_go`: what is sent instead of the step's own orders, and what it
    reads as then (`said`): it lets go of whatever holds."""

    key: str
    short: str
    action: Action
    says: bool = False
    asks: str = ""
    lets_go: tuple[Order, ...] = ()
    said: str = ""

    def words(self, facts: Facts) -> str:
        """The command in words, as a rule's step reads."""
        return self.said or "".join(phrase.text for phrase in self.action.phrases(facts, ""))

    def orders(self, firing: Firing) -> list[Order]:
        """What is to be done."""
        return list(self.lets_go) or self.action.orders(firing)


@dataclass(frozen=True, slots=True)
class AtHand:
    """A point with what it can be told."""

    point: Point
    offers: tuple[Offer, ...]


Offers = Callable[[Facts, Point], Iterator[Offer]]
OFFERS: Registry[Offers] = Registry("sort of point that takes commands")


def offers(kind: str) -> Callable[[Offers], Offers]:
    """Register what points of a kind can be told."""
    return lambda made: OFFERS.add(kind, made)


def at_hand(facts: Facts, place: str) -> list[AtHand]:
    """Everything that can be told something where a point is: itself, its area with those inside, and the cameras that look
    at it. The point itself comes first."""
    source = facts.point_by_id.get(place)
    if source is None:
        return []
    areas = facts.area_with_inner(source.area) if source.area else set()
    cameras = facts.cameras_of(place)
    near = [p for p in facts.points if p.id == place or p.area in areas or p.id in cameras]
    found = [AtHand(p, tuple(OFFERS[p.kind](facts, p))) for p in near if p.device and p.kind in OFFERS]
    order = OFFERS.names()
    return sorted((a for a in found if a.offers), key=lambda a: (a.point.id != place, order.index(a.point.kind)))


def offer_of(facts: Facts, place: str, key: str) -> Offer | None:
    """One of the offers of a place; None where it has none such."""
    return next((o for one in at_hand(facts, place) for o in one.offers if o.key == key), None)


def _at(point: Point) -> Target:
    return Target(point=Ref(id=point.id, name=point.name))


@offers("door")
def _door(facts: Facts, door: Point) -> Iterator[Offer]:
    yield Offer(f"release:{door.id}", t("open once"), DoorAction(target=_at(door), set="release"))
    asks = t("{door} stays locked until somebody unlocks it. Now?", door=door.name)
    yield Offer(f"lock:{door.id}", t("lock"), DoorAction(target=_at(door), set="lock"), asks=asks)


@offers("speaker")
@offers("station")
def _speaker(facts: Facts, speaker: Point) -> Iterator[Offer]:
    yield Offer(f"say:{speaker.id}", t("speak"), AnnounceAction(target=_at(speaker), text="…"), says=True)
    yield Offer(f"chime:{speaker.id}", t("chime"), AnnounceAction(target=_at(speaker), sound="chime"))


@offers("siren")
def _siren(facts: Facts, siren: Point) -> Iterator[Offer]:
    signals = siren.siren.signals if siren.siren else ()
    if siren.siren and signals:
        action = SignalAction(target=_at(siren), signal=signals[0].name)
        said = t("silence {siren}", siren=siren.name)
        yield Offer(f"silence:{siren.id}", t("silence"), action, lets_go=silenced(siren.id, siren.siren), said=said)
    for signal in signals:
        asks = t("{siren} gives “{signal}”: it is loud. Now?", siren=siren.name, signal=signal.name)
        action = SignalAction(target=_at(siren), signal=signal.name)
        yield Offer(f"signal:{siren.id}:{signal.name}", signal.name, action, asks=asks)


@offers("relay")
def _relay(facts: Facts, relay: Point) -> Iterator[Offer]:
    for held in (MOMENT, WHILE):
        action = RelayAction(target=_at(relay), set="hold", held=held)
        yield Offer(f"hold{held:g}:{relay.id}", t("on for {time}", time=seconds(held)), action)
    asks = t("{output} goes off, also where a rule has switched it on. Now?", output=relay.name)
    yield Offer(f"off:{relay.id}", t("off"), RelayAction(target=_at(relay), set="off"), asks=asks)


@offers("camera")
def _camera(facts: Facts, camera: Point) -> Iterator[Offer]:
    for preset in camera.told.presets:
        action = PtzAction(camera=_at(camera), to="preset", preset=preset)
        yield Offer(f"preset:{camera.id}:{preset}", preset, action)
    if camera.told.presets:
        yield Offer(f"home:{camera.id}", t("home position"), PtzAction(camera=_at(camera), to="home"))


#: What is said at a place so often that it lies ready.
READY_WORDS = (
    N_("Please wait, somebody is coming."),
    N_("This area is closed. Please leave it."),
    N_("You are being watched. Please step back from the door."),
)
