"""Why something is not done, and what to mind where it is: codes with facts, which `wording` puts into sentences."""

from __future__ import annotations

from enum import Enum, auto
from typing import Any


class Reason(Enum):
    """Why a decision, or a legacy constructor, is left as it is."""

    ENCODING = auto()
    DOES_NOT_PARSE = auto()
    OUTSIDE_CLASSES = auto()
    NO_CLASS = auto()
    LOCAL_CLASS = auto()
    SERIALIZED = auto()
    CONSTRUCTORS_IN_PARTS = auto()
    ONLY_ITSELF_CREATES = auto()
    CLOSED_BELOW = auto()
    SEVERAL_CONSTRUCTORS = auto()
    CONSTRUCTOR_FROM_LIBRARY = auto()
    ANY_NUMBER_OF_ARGUMENTS = auto()
    SUBCLASS_PASSES_BY = auto()
    DECLARATION_LOST = auto()
    CONSTRUCTOR_UNDER_CONDITION = auto()
    INHERITS_CONSTRUCTOR = auto()
    INHERITS_OF_LIBRARY = auto()
    TOO_MANY_DEPENDENCIES = auto()
    IN_CLASS_HEAD = auto()
    STATIC_CODE = auto()
    BEHIND_ADAPTER = auto()
    INITIALIZER_BLOCK = auto()
    GENERATED_CODE = auto()
    FIELD_OF_ANOTHER_PART = auto()
    EXPRESSION_LOST = auto()
    CONSTRUCTOR_REFERENCE = auto()
    NESTED_IN_FIELD = auto()
    DECLARED_TOGETHER = auto()
    FIELD_NEEDED_EARLY = auto()
    PARENT_NEEDS_EARLY = auto()
    ANOTHER_THIS = auto()
    CLOSED_WHERE_CREATED = auto()
    PRIVATE_TO_OUTER = auto()
    INNER_CLASS = auto()
    SET_IN_SEVERAL_PLACES = auto()
    FETCHED_TOO_EARLY = auto()
    CREATED_TOO_SOON = auto()
    UNTYPED_CALL = auto()
    ITS_JOB = auto()
    MORE_THAN_A_CALL = auto()
    USED_IN_FIELD = auto()
    CALL_ON_OBJECT = auto()
    AWAITED = auto()
    GIVES_BACK_BY_REFERENCE = auto()
    UNTYPED_ARGUMENT = auto()
    UNTYPED_RESULT = auto()
    LIBRARY_REACHES_OUTSIDE = auto()
    GATEWAY_ALREADY_PLANNED = auto()
    UNTYPED_DATA = auto()
    DATA_BOUND_TO_CLASS = auto()
    DATA_FILE_EXISTS = auto()
    NO_PLAIN_CLASS = auto()
    UNTYPED_STATIC = auto()
    CANT_BE_OFFERED = auto()
    NOT_BY_CLASS = auto()
    PASSED_AS_FUNCTION = auto()
    STATE_IS_SET = auto()
    STATE_READ_SEVERAL_TIMES = auto()
    SEVERAL_PACKAGES = auto()
    DATA_CLASS = auto()
    NEEDS_GATEWAY = auto()
    IDENTIFIER = auto()
    MODULE_FUNCTIONS = auto()
    MODULE_FUNCTION_FORM = auto()
    MODULE_FUNCTION_RENAMED = auto()
    MODULE_FUNCTION_PRIVATE = auto()
    HARMLESS_HELPER = auto()
    COMMON_STATE = auto()
    VARIABLE_ONLY = auto()
    NEEDS_WRAPPER = auto()
    NEEDS_FACTORY = auto()
    CREATED_IN_SEVERAL_WAYS = auto()
    ARGUMENTS_KNOWN_LATE = auto()
    WORKED_OUT_INSIDE = auto()
    WHETHER_WORKED_OUT_INSIDE = auto()
    CREATION_CAN_FAIL = auto()
    CREATED_ANEW = auto()
    CLOSED_BY_CREATOR = auto()
    FOREIGN_BASE = auto()
    STATE_OF_ITS_OWN = auto()
    LIBRARY_STATE = auto()
    HOLD_EACH_OTHER = auto()
    ONE_FOR_EACH_FIELD = auto()
    CREATED_IN_FIELD = auto()
    HELPER_OF_ITS_CREATOR = auto()
    CREATED_ALL_OVER = auto()
    GENERIC_OR_ANONYMOUS = auto()
    DIFFERENT_ARGUMENT_COUNTS = auto()
    CONSTRUCTOR_NOT_FOUND = auto()
    SEVERAL_CONSTRUCTORS_FIT = auto()
    NO_FUNCTION_TYPE = auto()
    SEVERAL_FACTORIES = auto()
    FACTORY_FILE_EXISTS = auto()
    SINGLETON_OF_LIBRARY = auto()
    WHICH_WORKED_OUT_INSIDE = auto()
    SEVERAL_SHARED_OBJECTS = auto()
    PART_OF_SHARED_OBJECT = auto()
    MAY_BE_ITSELF = auto()
    LOOKUP_UNTYPED = auto()
    LOOKUP_WORKED_OUT_INSIDE = auto()
    CONTAINER_NO_PARAMETER = auto()
    CONTAINER_NEEDS_TOKEN = auto()
    CONTAINER_SEES_TWO = auto()
    NO_RULE_KNOWN = auto()
    RULE_FINDS_OTHERS = auto()
    SEVERAL_WAYS_TO_CREATE = auto()
    ONLY_CLASS_KNOWS_TAKEN = auto()
    ONLY_CLASS_KNOWS = auto()
    CREATION_LOST = auto()
    STANDS_IN_FOR_ARGUMENTS = auto()
    CALLER_MADE_OF_FIELDS = auto()
    CREATED_BY_FIELD = auto()
    CREATED_BY_DELEGATION = auto()
    CREATED_UNDER_ANOTHER_THIS = auto()
    CREATED_ON_THE_WAY = auto()
    CALLER_IS_FULL = auto()
    FETCHED_LATE = auto()
    CONTAINER_NOT_TOLD = auto()
    NOBODY_BUT_TESTS = auto()
    NOBODY = auto()
    CONTAINER_FACTORY_CALLS = auto()
    SUBCLASSES_CALL = auto()
    CALLERS_DO_NOT_FORWARD = auto()
    ROOT_CANT_NAME = auto()
    NAMED_ELSEWHERE = auto()
    CALLERS_CANT_NAME = auto()
    NO_TECHNIQUE = auto()
    NAME_CLASH = auto()
    STEP_PASSED_OVER = auto()
    STEP_BY_HAND = auto()
    UNPROVEN = auto()
    DOES_NOT_HOLD = auto()
    MISTAKE = auto()


class Risk(Enum):
    """What somebody who takes a step should mind."""

RISKS


class Refusal:
    """A reason with its facts: names, counts, or the refusal behind it."""

    __slots__ = ("facts", "reason")

    def __init__(self, reason: Reason, **facts: Any) -> None:
        self.reason, self.facts = reason, facts

    def __repr__(self) -> str:
        return f"Refusal({self.reason.name}, {self.facts})"


class Hazard:
    """A risk with its facts."""

    __slots__ = ("facts", "risk")

    def __init__(self, risk: Risk, **facts: Any) -> None:
        self.risk, self.facts = risk, facts
