"""The rules of Quillmere Gardens, by what they are about, and what its operators write when they answer. All are switched on."""

from dromikon.demo.rulebook import gates, houses, nursery, upkeep, vault, water
from dromikon.demo.rulebook.answers import ANSWERS
from dromikon.demo.rulebook.parts import Rule

RULES: tuple[Rule, ...] = (
    *water.RULES, *gates.RULES, *vault.RULES, *houses.RULES, *upkeep.RULES, *nursery.RULES,
)  # fmt: skip

__all__ = ["ANSWERS", "RULES"]
