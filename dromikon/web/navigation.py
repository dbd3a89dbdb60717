"""One table of the screens: where the bar leads, and which keys do what there. Bar, help and scripts read it."""

from dataclasses import dataclass

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

Words = str | Promise


@dataclass(frozen=True, slots=True)
class Keys:
    """One line of help: acts of a screen's script and the keys that set them off, as browsers call keys."""

    words: Words
    acts: dict[str, str]

    @property
    def shown(self) -> list[list[str]]:
        """The keys as they are printed on a keyboard: combinations of keys."""
        return [[_PRINTED.get(part, part) for part in key.split("+") or key] for key in self.acts.values()]


@dataclass(frozen=True, slots=True)
class Screen:
    """A screen of a site. `go`: the key that leads there after g; those without are not in the bar."""

    name: str
    label: Words
    go: str = ""
    keys: tuple[Keys, ...] = ()


_PRINTED = {"ArrowLeft": "←", "ArrowRight": "→", " ": "Space", "-": "−", "Plus": "+"}
_SAVE = Keys(_("Save"), {"save": "Ctrl+s"})
_UNDO = Keys(_("Undo and redo"), {"undo": "Ctrl+z", "redo": "Ctrl+Shift+z"})

SCREENS = (
    Screen(
        "desk",
        _("Desk"),
        "d",
        (
            Keys(_("Next and previous alarm"), {"next": "j", "previous": "k"}),
            Keys(_("Take the current alarm, or leave it"), {"take": "t"}),
            Keys(
                _("Say what it was: real, false, a test, our own people"),
                {"real": "1", "false": "2", "test": "3", "own": "4"},
            ),
            Keys(_("Write the note"), {"note": "n"}),
            Keys(_("Acknowledge the current alarm"), {"acknowledge": "Ctrl+Enter"}),
            Keys(_("Choose it, to answer several alike"), {"choose": "x"}),
            Keys(_("Put it on the shelf"), {"shelve": "s"}),
            Keys(_("Have it in front of you"), {"unfold": "o"}),
            Keys(_("Answer a call, and end it"), {"answerCall": "c", "endCall": "e"}),
            Keys(_("To the desk buttons"), {"buttons": "b"}),
            Keys(_("Arrange what is shown; let rules put cameras up or not"), {"arrange": "v", "switching": "u"}),
            Keys(_("Sound on or off"), {"sound": "m"}),
        ),
    ),
    Screen(
        "daybook",
        _("Daybook"),
        "b",
        (
            Keys(_("Move in time"), {"earlier": "ArrowLeft", "later": "ArrowRight"}),
            Keys(_("Zoom"), {"closer": "Plus", "farther": "-"}),
            Keys(_("Back to live"), {"live": "l"}),
            Keys(_("Previous and next run"), {"previous": ",", "next": "."}),
            Keys(_("Open the chosen run"), {"open": "Enter"}),
        ),
    ),
    Screen("records", _("Records"), "e"),
    Screen("rulebook", _("Rulebook"), "r"),
    Screen("sources", _("Sources"), "s"),
    Screen(
        "archive",
        _("Archive"),
        "a",
        (
            Keys(_("Play and pause"), {"play": " "}),
            Keys(_("Five seconds back and on"), {"back": "ArrowLeft", "on": "ArrowRight"}),
            Keys(_("One picture back and on"), {"pictureBack": ",", "pictureOn": "."}),
            Keys(_("To what happened before and next"), {"jumpBack": "[", "jumpOn": "]"}),
            Keys(_("Choose a part: from here, to here"), {"fromHere": "i", "toHere": "o"}),
        ),
    ),
    Screen("lists", _("Lists"), "l", (_SAVE,)),
    Screen("hours", _("Hours"), "h"),
    Screen(
        "hours.one",
        _("Hours"),
        "",
        (
            _SAVE,
            _UNDO,
        ),
    ),
    Screen("deliveries", _("Deliveries")),
    Screen("cases", _("Cases")),
    Screen("setup", _("Set-up"), "", (Keys(_("Add one"), {"add": "n"}), _SAVE)),
    Screen("installation", _("Installation"), "", (Keys(_("Add one"), {"add": "n"}), _SAVE)),
    Screen("rulebook.edit", _("Rule"), "", (_SAVE, _UNDO)),
)
BAR = tuple(screen for screen in SCREENS if screen.go)
_BY_NAME = {screen.name: screen for screen in SCREENS}


def screen_of(view: str) -> Screen | None:
    """The screen that a view belongs to: its own, or the one it lies under."""
    alike = "rulebook.edit" if view == "rulebook.new" else view
    return _BY_NAME.get(alike) or _BY_NAME.get(view.split(".")[0])


def acts_of(screen: Screen | None) -> dict[str, str]:
    """What each key sets off there: {key: act}."""
    return {key: act for keys in (screen.keys if screen else ()) for act, key in keys.acts.items()}
