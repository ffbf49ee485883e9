; What to capture in Java source. One head capture a pattern says which record it makes
; (`type.*`, `member.*`, `local.*`, `site.*`, `count.*`, `file.*`); the others are its parts.
; The assembler nests heads by byte range, so no pattern repeats what encloses it.

; --- the file ---------------------------------------------------------------------------
(package_declaration [(scoped_identifier) (identifier)] @name) @file.package
(import_declaration) @file.import

; --- types ------------------------------------------------------------------------------
(class_declaration (modifiers)? @modifiers name: (_) @name type_parameters: (_)? @generics
  superclass: (superclass (_) @extends)? interfaces: (super_interfaces (type_list) @implements)?
  body: (_) @body) @type.class
(interface_declaration (modifiers)? @modifiers name: (_) @name type_parameters: (_)? @generics
  (extends_interfaces (type_list) @extends)? body: (_) @body) @type.interface
(enum_declaration (modifiers)? @modifiers name: (_) @name
  interfaces: (super_interfaces (type_list) @implements)? body: (_) @body) @type.enum
(record_declaration (modifiers)? @modifiers name: (_) @name type_parameters: (_)? @generics
  parameters: (_) @parameters interfaces: (super_interfaces (type_list) @implements)?
  body: (_) @body) @type.record
(annotation_type_declaration (modifiers)? @modifiers name: (_) @name body: (_) @body) @type.annotation
(object_creation_expression type: (_) @extends (class_body) @type.anonymous)
(enum_constant body: (class_body) @type.anonymous)

; --- members ----------------------------------------------------------------------------
([(field_declaration (modifiers)? @modifiers type: (_) @of
    declarator: (variable_declarator name: (_) @name dimensions: (_)? @dimensions value: (_)? @value) @member.field)
  (constant_declaration (modifiers)? @modifiers type: (_) @of
    declarator: (variable_declarator name: (_) @name dimensions: (_)? @dimensions value: (_)? @value) @member.field)] @whole)
(enum_constant name: (_) @name arguments: (_)? @arguments) @member.constant
(method_declaration (modifiers)? @modifiers type_parameters: (_)? @generics type: (_) @of name: (_) @name
  parameters: (_) @parameters (throws)? @throws body: (_)? @body) @member.method
(annotation_type_element_declaration type: (_) @of name: (_) @name) @member.method
(constructor_declaration (modifiers)? @modifiers name: (_) @name parameters: (_) @parameters
  (throws)? @throws body: (_) @body) @member.constructor
(compact_constructor_declaration (modifiers)? @modifiers name: (_) @name body: (_) @body) @member.constructor
(static_initializer (block) @body) @member.static
(class_body (block) @member.instance)
(enum_body_declarations (block) @member.instance)
(explicit_constructor_invocation constructor: (_) @name arguments: (_) @arguments) @site.delegation

; --- parameters and locals --------------------------------------------------------------
(formal_parameter (modifiers)? @modifiers type: (_) @of name: (_) @name dimensions: (_)? @dimensions) @parameter.plain
(spread_parameter (modifiers)? @modifiers [(type_identifier) (scoped_type_identifier) (generic_type) (array_type)
  (integral_type) (floating_point_type) (boolean_type)] @of (variable_declarator name: (_) @name)) @parameter.variadic
(lambda_expression parameters: (identifier) @name body: (_) @scope) @local.untyped
(lambda_expression parameters: (inferred_parameters (identifier) @name) body: (_) @scope) @local.untyped
(lambda_expression parameters: (formal_parameters (formal_parameter type: (_) @of name: (_) @name))
  body: (_) @scope) @local.typed
([(block (local_variable_declaration type: (_) @of declarator: (variable_declarator name: (_) @name dimensions: (_)? @dimensions value: (_)? @value) @local.typed))
  (constructor_body (local_variable_declaration type: (_) @of declarator: (variable_declarator name: (_) @name dimensions: (_)? @dimensions value: (_)? @value) @local.typed))
  (switch_block_statement_group (local_variable_declaration type: (_) @of declarator: (variable_declarator name: (_) @name dimensions: (_)? @dimensions value: (_)? @value) @local.typed))
  (for_statement init: (local_variable_declaration type: (_) @of declarator: (variable_declarator name: (_) @name dimensions: (_)? @dimensions value: (_)? @value) @local.typed))
  ] @scope)
(enhanced_for_statement type: (_) @of name: (_) @name value: (_) @iterated) @local.element
(try_with_resources_statement resources: (resource_specification
  (resource type: (_) @of name: (_) @name value: (_) @value) @local.typed)) @scope
(catch_clause (catch_formal_parameter (catch_type) @of name: (_) @name)) @local.caught
(instanceof_expression right: (_) @of name: (identifier) @name) @local.pattern
(type_pattern (_) @of (identifier) @name) @local.pattern
(record_pattern_component (_) @of (identifier) @name) @local.pattern

; --- sites ------------------------------------------------------------------------------
(object_creation_expression type: (_) @of arguments: (_) @arguments) @site.creation
(method_invocation object: (_)? @receiver name: (_) @name arguments: (_) @arguments) @site.call
(method_reference . (_) @receiver) @site.reference
(field_access object: (_) @receiver field: (_) @name) @site.access
(cast_expression type: (_) @of value: (_) @value) @site.cast
(instanceof_expression right: (_) @of) @site.test
(class_literal (_) @of) @site.literal
(throw_statement (_) @value) @site.throw
(assignment_expression left: (_) @name right: (_) @value) @site.assignment
(update_expression [(identifier) (field_access)] @name) @site.assignment
(annotation_type_element_declaration value: (_) @value) @site.default
[(marker_annotation name: (_) @of) (annotation name: (_) @of)] @site.annotation

; --- counts -----------------------------------------------------------------------------
[(for_statement) (enhanced_for_statement) (while_statement) (do_statement)] @count.loop
[(if_statement) (catch_clause) (switch_label) (ternary_expression)] @count.branch
["&&" "||"] @count.branch

; --- what did not parse --------------------------------------------------------------
[(ERROR) (MISSING)] @trouble.error
