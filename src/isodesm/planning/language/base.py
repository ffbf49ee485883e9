"""What a language is to planning: how things are spelled, and by what rules it differs. A trait is named after its rule; its
sentence says what holds where it is set. The defaults hold for most languages."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import ClassVar

from isodesm.facts.records import Member, Parameter
from isodesm.planning.language.lines import common_position
from isodesm.planning.model.code import (
    Adapter,
    FactoryClass,
    FunctionType,
    Interface,
    Loading,
    Need,
    Rules,
    Signature,
    Table,
    WrittenConstructor,
)

Level = tuple[int, int]  # major and minor version


class Language:
    """One language at one of its levels. Names are bare (no sign in front)."""

    name: ClassVar[str]

    # --- types and members ----------------------------------------------------------------
    typed = True
    """Types can be written, so that an abstraction has a place."""
    needs_types = False
    """Nothing can be declared without its type."""
    overloads = False
    """A class may have several constructors, and methods of one name differ by the types of their parameters."""
    public_members = False
    """Members that implement those of an interface must say that they are public."""
    structural_types = False
    """Anything of the right shape implements an interface."""
    metaclasses = False
    """A class is made by that of its bases, and two that know nothing of each other can't be put together."""
    declares_visibility = True
    """A field that is not declared private is there for others."""
    declares_fields = True
    """A field is declared apart from the assignments to it."""
    marks_final_fields = False
    """A field that is set once says so."""
    final_word = ""
    """What stands in front of the type of a field that is given its value once."""
    interfaces_have_state = False
    """An interface can offer a state as a state."""
    offered_kinds: tuple[str, ...] = ("method",)
    """Kinds of members that an interface can offer."""
    interfaces_prefixed = False
    """Every interface is named with an I in front."""
    lambdas_implement_interfaces = False
    """A function may implement an interface of one method."""
    checked_errors = False
    """Errors that a method may throw have to be declared, or caught."""
    protected_is_package_wide = False
    """The package of a class may use its protected members."""
    types_hidden_within = ""
    """Where a type that is not public is known: in its `package` or its `assembly`; '' where all are known."""
    hiding_members: tuple[str, ...] = ()
    """Kinds of members that hide a type of their name in code of their class."""
    nested_types_hidden = False
    """A type inside another may be private to that."""
    nested_types_private = False
    """A type inside a class is private to that unless it says something else."""
    inner_classes_bound = False
    """An object of a class inside another belongs to one of the outer class, unless it is static."""
    packages_are_folders = False
    """The folders of a file spell its package."""
    namespaces_nest = False
    """Code knows the types of the namespaces around its own."""
    knows_own_package = False
    """The types of a file's own packages and namespaces are known without an import."""
    whole_imports_are_ambiguous = False
    """Of several packages that are imported as a whole, nothing tells which a type is from."""
    type_aliases = False
    """A module may give types names that declare nothing by themselves."""
    default_exports = False
    """A module may hand something out under no name."""
    no_result = ""
    """The type of what a function gives that gives nothing."""
    written_types = False
    """The parameters of a method are declared with what its own declaration says of them beside their types left off."""
    accessors = False
    """A property says whether it can be read and set."""
    constrained_generics = False
    """Constraints on type parameters stand behind the parameters."""
    default_left_out = ""
    """What stands for a default that a declaration does not repeat."""
    docs_in_body = False
    """The text that documents a member is the first statement of its body."""
    docs_by_line = ""
    """What each line of such a text begins with; '' where it is one remark."""
    hides_in_module = False
    """What a module declares is known to it alone unless it is exported."""
    conditional_compilation = False
    """Sections of a file may be compiled under a condition."""
    pointers = False
    """Parameters may be pointers, which no interface should offer."""
    late_static_type = ""
    """The type of whatever class a static function is called on, as a result."""
    values: tuple[str, str, str]
    """Names of the types of texts, whole numbers and truth values."""
    type_names: re.Pattern[str] | None = None
    """Names of types where they stand for themselves."""
    types_in_quotes = False
    """A type may be written as a text."""
    builtin_names: frozenset[str] = frozenset()
    """Names that every module has."""
    heads_looked_up_at_once = False
    """The types in the head of a function are looked up when its class is declared."""
    compiles_here = False
    """The Python that runs this program can compile it."""
    methods_unique = False
    """A class has one method of a name."""
    overloads_share_body = False
    """Several forms of a function share one body."""

    # --- variables and calls --------------------------------------------------------------
    link = "."
    """Between an object and its member."""
    static_link = "."
    """Between a class and its static member."""
    sign = ""
    """What stands in front of the name of a variable."""
    snake_case = False
    """Words of a name are joined by underscores."""
    reserved: frozenset[str] = frozenset()
    """Words that nothing can be called by."""
    indexers = False
    """An object may be asked by an index, which is a member."""
    spread = ""
    """What passes the elements of a list one by one."""
    reference_parameters = False
    """Parameters may say that they are references."""
    calls_hide_references = False
    """A call says nothing of what it takes by reference."""
    keyword_arguments = False
    """An argument that is passed by its name may stand for any parameter."""
    passes_by_name: re.Pattern[str] | None = None
    """An argument with its name in front."""
    missing_argument = ""
    """What is passed for a parameter that is left out in the midst of others."""
    marks_optional_parameters = False
    """A parameter may be marked as one that may be left out."""
    parameter_types: re.Pattern[str] | None = None
    """Types that a parameter can be declared with, where not all can."""
    named = ""
    """(with `{name}` and `{value}`) How an argument is passed by its name, where a call may."""
    functions_rebind_this = False
    """A function inside a method may have another object for `this`, or none."""
    nested_lambdas_hide_no_names = False
    """A function without a name takes nothing by a name that one around it has."""
    lambdas_hide_no_names = False
    """A function without a name may have no parameter of a name that is known around it."""
    statics_go_by_class = False
    """A static function may go by the class that it is called on."""
    functions_bound_by_name = False
    """A function is looked up by its name at each call, so that a test can put another in its place."""
    takes_types_of_calls = False
    """A type can be spelled as that of what a function takes or gives."""
    class_member: re.Pattern[bytes] | None = None
    """What stands behind the name of a class of which only a member is asked for."""
    class_value: re.Pattern[bytes] | None = None
    """What stands behind the name of a class that is handed on as a value, where only this makes it one."""
    bare_value: re.Pattern[str] | None = re.compile(
        r"^[ \t]*((?:this\.|self\.|\$this->)?\$?[A-Za-z_]\w*)[ \t]*;[ \t]*$", re.MULTILINE
    )
    """A statement that only names something, which no step should leave behind."""

    # --- construction ---------------------------------------------------------------------
    parent_call = ""
    """The statement by which a constructor calls its parent's without arguments, where that does not go without saying."""
    always_calls_parent = False
    """A constructor of a class with a base has to call that of the base."""
    super_call_first = False
    """Nothing of an object may be touched before the constructor of the parent is called."""
    inherits_constructors = False
    """A class without a constructor has that of its parent."""
    undeclared_arguments: re.Pattern[bytes] | None = None
    """By what a function asks for arguments that it declares no parameters for."""
    forwards_any_arguments = False
    """A constructor can take whatever its parent's takes, and forward it."""
    forwards_plain_parameters = False
    """A constructor can repeat the parameters of its parent's, if they are plain."""
    subclass_may_skip_constructor = False
    """A subclass need not call the constructor of its parent."""
    constructors_no_less_open = False
    """A constructor may be called by no fewer than that of the parent."""
    variadic_blocks = False
    """To a constructor that takes any number of arguments nothing can be added for which the old one stands in."""
    opened: dict[str, str] = {}
    """The words by which a constructor is kept back, each with what lets tests call it, and still all who could."""
    fields_maker = ""
    """The decorator by which the standard library makes a constructor from the fields of a class."""
    initializers_see_fields = False
    """What one field begins with may name another one."""
    initializers_run_before_base = False
    """Fields begin before the constructor of the parent runs."""
    lambdas_need_values = False
    """A field that is set once must have its value where a function names it."""
    names_shared_with_heirs = False
    """A class and one below it can't each keep something of one name: it is refused, or both share it."""
    imports_run_modules = False
    """An import runs the module at once and takes what that has by then; functions may have imports of their own."""
    modules_run_top_down = False
    """A module runs from top to bottom when it is imported."""
    promoted_if_required = False
    """A parameter declares a field only where it has to be passed."""
    braces = True
    """Bodies stand in braces."""
    types_behind_names = False
    """The type of a field stands behind its name."""
    creation = "new {}({})"
    """(class, arguments) to what creates an object."""

    # --- containers -----------------------------------------------------------------------
    containers_go_by_classes = False
    """Containers find what a constructor takes by the class that it names."""
    hosts_call_one_constructor = False
    """A host hands services in, and refuses a class with two constructors that it could call."""
    containers_annotate_constructors = False
    """A container is told by an annotation which of several constructors to call."""
    containers_fill_fields = False
    """A container that fills in fields calls a constructor in the place of that."""
    container_arrays = False
    """Containers may go by arrays of definitions."""
    annotation = "@{}"
    """(name, arguments) to an annotation in front of a class."""

    # --- files ----------------------------------------------------------------------------
    styled_imports = False
    """Files differ in how they write imports: quotes, semicolons, blanks."""
    imported: re.Pattern[str] | None = None
    """An import statement, with what it is sorted by."""
    imports_by = "line"
    """What a new file is given of its imports: `namespace`, `name`, or the whole `line`."""
    names_global_types = False
    """A file in a namespace has to import types that are in none."""
    twin_modules: tuple[str, ...] = ()
    """Modules that hand out the same under the same names, the one to take in front."""
    whole_lines_first = False
    """Imports of whole modules stand in front of those of names."""
    suffix = ""
    """The end of the name of a file that a step writes."""
    files_found_by_name = False
    """A type is loaded from a path that a rule makes from its name."""
    named_like_type = False
    """A file may have the name of its type as it stands."""
    apart_from_code = 2
    """Line ends between imports and code where a file had no imports."""
    implements = " implements "
    """Between the name of a class and its first interface."""
    statement_end = ";"
    untyped_data = ""
    """The type of a table of data that is declared without one."""
    of_table = "new {name}().{field}"
    """What gives the data of a class that keeps it, or asks one for its rules."""

    def __init__(self, level: Level = (99, 0), suffix: str = "") -> None:
        self.level = level

    @classmethod
    def level_of(cls, level: Level, text: bytes) -> Level:
        """The level that a file may be written at, of which its project has another."""
        return level

    # --- spelling -------------------------------------------------------------------------

    def use(self, name: str) -> str:
        """A field, as a member of its class names it."""
        return name

    def argument(self, name: str) -> str:
        """A parameter, as its own body names it."""
        return f"{self.sign}{name}"

    def parameter(self, type: str, name: str) -> str:
        """A parameter."""
        return f"{type} {name}"

    def optional(self, type: str, name: str, default: str) -> tuple[str, str]:
        """A parameter with a default, and the value that it gives."""
        return "", ""

    def nullable(self, type: str, name: str, default: str) -> tuple[str, str]:
        """The same for one that may be null, where containers inject that."""
        return "", ""

    def field(self, type: str, name: str) -> str:
        """The declaration of a field; '' where assigning declares it."""
        return f"private {self.final_word}{type} {name};"

    promoted: Callable[[str, str], str] | None = None
    """(type, name) to a parameter that declares a field as well."""

    def assignment(self, name: str, value: str) -> str:
        """The statement that fills a field."""
        return f"{self.use(name)} = {value}{self.statement_end}"

    def fallback(self, name: str, value: str) -> str:
        """The statement by which a parameter gets what it is or gives way to."""
        return f"{name} = {value}"

    def supplied(self, text: str) -> str:
        """An expression that creates or calls something, as the level takes it."""
        return text

    def constructor(self, given: WrittenConstructor) -> str:
        """A constructor, first line unindented."""
        raise NotImplementedError

    delegating: Callable[[WrittenConstructor], str] | None = None
    """The same with arguments for statements: a legacy constructor, which hands over to the new one."""
    passing_on: Callable[[Sequence[str], Sequence[str], Sequence[str], int], tuple[list[str], str]] | None = None
    """(inherited parameters, their names, further ones, their place) to those of one in its place, and how it calls it."""

    def signature(self, member: Signature, indent: str) -> list[str]:
        """The lines of a member in an abstraction."""
        raise NotImplementedError

    def interface(self, wanted: Interface) -> str:
        """The file of an abstraction."""
        raise NotImplementedError

    def adapter(self, wanted: Adapter) -> str:
        """The file of a class that passes on."""
        raise NotImplementedError

    table: Callable[[Table], str] | None = None
    """The file of a class that keeps the data of another; and of one that has its rules."""
    rules: Callable[[Rules], str] | None = None
    factory_class: Callable[[FactoryClass], str] | None = None
    """The file of a class whose `make` a container can call, where containers go by files."""

    def file_name(self, name: str) -> str:
        """The name of the file that a type of some name lives in."""
        raise NotImplementedError

    def import_line(self, need: Need, path: str) -> str:
        """The line by which the file at a path imports a name."""
        raise NotImplementedError

    def loading(self, text: bytes) -> Loading | None:
        """What a module does while it is loaded, where an import runs another at once and takes what that has by then."""
        return None

    def hands_out(self, text: bytes, name: str) -> bool:
        """Whether a module hands out something by a name, as far as can be seen."""
        return True

    def import_group(self, key: str, of_tree: Callable[[str], bool]) -> str:
        """What imports stand together by."""
        return ""

    def override(self, indent: str) -> str:
        """What goes in front of a member that implements one of an interface."""
        return ""

    def member_name(self, name: str) -> str:
        """A name of something outside as one of a member."""
        return name[:1].lower() + name[1:]

    # --- functions ------------------------------------------------------------------------

    def factory(self, made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> FunctionType:
        """A function that creates an object of a class, with its parameters as (type, name), under an abstraction."""
        raise NotImplementedError

    def has_function_type(self, parameters: Sequence[Parameter], throws: Sequence[str]) -> bool:
        """Whether a function type has the form of a constructor."""
        return True

    def function_of(self, member: Member, written: str, needs: tuple[Need, ...], *, freely: bool) -> FunctionType | None:
        """The function that a static member is, `written` in code, called `freely` (by name, in part); None: has no type."""
        raise NotImplementedError

    def late_call(self, written: str) -> str:
        """A function that looks another up at each call; '' where that goes without saying."""
        return ""

    def reference(self, owner: str, name: str, written: str) -> str:
        """A static function of a class as a value."""
        return written

    def reader(self, type: str, written: str, needs: tuple[Need, ...]) -> FunctionType | None:
        """A function that gives what an expression has at the time; None where its type can't be told."""
        raise NotImplementedError

    def position(self, constructor: Member | None, *, required: bool = False) -> int:
        """Which place among its parameters a constructor gives to a further one, which may be `required`."""
        return common_position(constructor, required=required)
