; What to capture in TypeScript and JavaScript source. See the Java file for the vocabulary.

; --- the file ---------------------------------------------------------------------------
[(import_statement) (import_alias) (export_statement source: (_)) (export_statement (export_clause))
 (export_statement value: (identifier))] @file.import
(export_statement (decorator)+ @decorator declaration: (_) @definition) @file.decorated
(class_declaration (decorator)+ @decorator) @definition @file.decorated
(abstract_class_declaration (decorator)+ @decorator) @definition @file.decorated
(class_body (decorator)+ @decorator . (method_definition) @definition @file.decorated)
(export_statement "default" declaration: (_) @definition) @file.default
(variable_declarator name: (_) value: (call_expression function: (identifier) arguments: (arguments . (string)))) @file.import
(expression_statement (assignment_expression left: (member_expression) right: [(identifier) (object)])) @file.import

; --- types ------------------------------------------------------------------------------
(class_declaration name: (_) @name type_parameters: (_)? @generics
  (class_heritage (extends_clause)? @extends (implements_clause)? @implements)? body: (_) @body) @type.class
(abstract_class_declaration name: (_) @name type_parameters: (_)? @generics
  (class_heritage (extends_clause)? @extends (implements_clause)? @implements)? body: (_) @body) @type.class
(variable_declarator name: (identifier) @name value: (class !name
  (class_heritage (extends_clause)? @extends (implements_clause)? @implements)? body: (_) @body) @type.class)
(class name: (_) @name
  (class_heritage (extends_clause)? @extends (implements_clause)? @implements)? body: (_) @body) @type.class
(class !name (class_heritage (extends_clause)? @extends (implements_clause)? @implements)? body: (_) @body) @type.anonymous
(interface_declaration name: (_) @name type_parameters: (_)? @generics (extends_type_clause)? @extends
  body: (_) @body) @type.interface
(enum_declaration name: (_) @name body: (_) @body) @type.enum
(internal_module name: (_) @name body: (_) @body) @type.namespace
(module name: (identifier) @name body: (_) @body) @type.namespace

; --- members ----------------------------------------------------------------------------
(class_body (method_definition name: (_) @name type_parameters: (_)? @generics parameters: (_) @parameters
  return_type: (_)? @of body: (_) @body) @member.method)
(class_body [(abstract_method_signature name: (_) @name type_parameters: (_)? @generics parameters: (_) @parameters return_type: (_)? @of)
  (method_signature name: (_) @name type_parameters: (_)? @generics parameters: (_) @parameters return_type: (_)? @of)] @member.method)
(interface_body (method_signature name: (_) @name type_parameters: (_)? @generics parameters: (_) @parameters
  return_type: (_)? @of) @member.method)
(interface_body (property_signature name: (_) @name type: (_)? @of) @member.field)
(public_field_definition name: (_) @name type: (_)? @of value: (_)? @value) @member.field
(enum_body (property_identifier) @name @member.constant)
(enum_body (enum_assignment name: (_) @name) @member.constant)
(class_static_block body: (_) @body) @member.static
(function_declaration name: (_) @name type_parameters: (_)? @generics parameters: (_) @parameters
  return_type: (_)? @of body: (_) @body) @member.function
(generator_function_declaration name: (_) @name parameters: (_) @parameters return_type: (_)? @of body: (_) @body) @member.function
(function_expression name: (identifier) @name parameters: (_) @parameters return_type: (_)? @of body: (_) @body) @member.function
(call_expression function: (super) @name arguments: (_) @arguments) @site.delegation

; --- parameters and locals --------------------------------------------------------------
(required_parameter pattern: [(identifier) (object_pattern) (array_pattern)] @name type: (_)? @of value: (_)? @default) @parameter.plain
(optional_parameter pattern: (_) @name type: (_)? @of value: (_)? @default) @parameter.plain
(required_parameter pattern: (rest_pattern (identifier) @name) type: (_)? @of) @parameter.variadic
(arrow_function parameter: (identifier) @name body: (_) @scope) @local.untyped
([(arrow_function parameters: (formal_parameters [(required_parameter pattern: (identifier) @name type: (_)? @of)
    (optional_parameter pattern: (identifier) @name type: (_)? @of)]) body: (_) @scope)
  (function_expression parameters: (formal_parameters [(required_parameter pattern: (identifier) @name type: (_)? @of)
    (optional_parameter pattern: (identifier) @name type: (_)? @of)]) body: (_) @scope)
  (object (method_definition parameters: (formal_parameters [(required_parameter pattern: (identifier) @name type: (_)? @of)
    (optional_parameter pattern: (identifier) @name type: (_)? @of)]) body: (_) @scope))] @local.typed)
(variable_declarator name: (identifier) @name type: (_)? @of value: (_)? @value) @local.assigned
(shorthand_property_identifier_pattern) @name @local.untyped
(for_in_statement left: (identifier) @name operator: "of" right: (_) @iterated) @local.element
(catch_clause parameter: (identifier) @name type: (_)? @of) @local.caught

; --- sites ------------------------------------------------------------------------------
(new_expression constructor: (_) @of arguments: (_)? @arguments) @site.creation
(call_expression function: (identifier) @name type_arguments: (_)? @generics arguments: (arguments) @arguments) @site.call
(call_expression function: (member_expression object: (_) @receiver property: (_) @name) @callee
  type_arguments: (_)? @generics arguments: (_) @arguments) @site.call
(call_expression function: (subscript_expression object: (_) @receiver index: (string (string_fragment) @name)) @callee arguments: (_) @arguments) @site.call
(member_expression object: (_) @receiver property: (_) @name) @site.access
(as_expression . (_) @value (_) @of) @site.cast
(satisfies_expression . (_) @value (_) @of) @site.cast
(binary_expression operator: "instanceof" right: (_) @of) @site.test
(throw_statement (_) @value) @site.throw
(assignment_expression left: (_) @name right: (_) @value) @site.assignment
(augmented_assignment_expression left: (_) @name right: (_) @value) @site.assignment
(update_expression argument: (_) @name) @site.assignment
(decorator [(identifier) @of (member_expression) @of (call_expression function: (_) @of)]) @site.annotation

; --- counts -----------------------------------------------------------------------------
[(for_statement) (for_in_statement) (while_statement) (do_statement)] @count.loop
[(if_statement) (catch_clause) (switch_case) (ternary_expression)] @count.branch
["&&" "||" "??"] @count.branch

; --- what did not parse --------------------------------------------------------------
[(ERROR) (MISSING)] @trouble.error

; --- only .ts .mts .cts ---
(type_assertion (type_arguments (_) @of) (_) @value) @site.cast
