"""Roles and what each may do. One table; every page, call, picture and stream asks it."""

from enum import StrEnum

from dromikon.core.words import N_


class Role(StrEnum):
    ADMINISTRATOR = "administrator"
    INTEGRATOR = "integrator"
    DUTY_MANAGER = "duty_manager"
    OPERATOR = "operator"
    VIEWER = "viewer"


#: What roles are called.
ROLE_WORDS = {
    Role.ADMINISTRATOR: N_("administrator"),
    Role.INTEGRATOR: N_("integrator"),
    Role.DUTY_MANAGER: N_("duty manager"),
    Role.OPERATOR: N_("operator"),
    Role.VIEWER: N_("viewer"),
}


class May(StrEnum):
    """Things a role may be allowed to do."""

    LOOK = "look"
    ACKNOWLEDGE = "acknowledge"
    PRESS = "press"
    #: Tells doors, outputs, sirens, speakers and cameras what to do, by hand.
    COMMAND = "command"
    #: Pauses a rule at a camera, with an end.
    PAUSE = "pause"
    BOOKMARK = "bookmark"
    EDIT_RULES = "edit_rules"
    EDIT_SOURCES = "edit_sources"
    EDIT_LISTS = "edit_lists"
    SET_MODE = "set_mode"
    SEE_AUDIT = "see_audit"
    #: Areas, points, groups, recorders, intakes: what a site is made of.
    SET_UP = "set_up"
    #: Who belongs to the site, in which role.
    SET_UP_PEOPLE = "set_up_people"
    #: Sees every alarm of the site, also those addressed to others.
    SEE_ALL_ALARMS = "see_all_alarms"


_OPERATING = {May.LOOK, May.ACKNOWLEDGE, May.PRESS, May.COMMAND, May.BOOKMARK}
_MANAGING = {*_OPERATING, May.PAUSE, May.EDIT_LISTS, May.SET_MODE, May.SEE_AUDIT}
_BUILDING = {*_MANAGING, May.EDIT_RULES, May.EDIT_SOURCES, May.SET_UP, May.SEE_ALL_ALARMS}

ROLE_MAY: dict[Role, frozenset[May]] = {
    Role.ADMINISTRATOR: frozenset({*_BUILDING, May.SET_UP_PEOPLE}),
    Role.INTEGRATOR: frozenset(_BUILDING),
    Role.DUTY_MANAGER: frozenset(_MANAGING),
    Role.OPERATOR: frozenset(_OPERATING),
    Role.VIEWER: frozenset({May.LOOK, May.SEE_ALL_ALARMS}),
}


def role_may(role: str, what: May) -> bool:
    return what in ROLE_MAY[Role(role)]
