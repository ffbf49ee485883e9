; What to capture in C# source. See the Java file for the vocabulary.

; --- the file ---------------------------------------------------------------------------
(namespace_declaration name: (_) @name body: (_) @body) @file.namespace
(file_scoped_namespace_declaration name: (_) @name) @file.namespace
(using_directive) @file.import
(global_statement) @file.script

; --- types ------------------------------------------------------------------------------
(class_declaration name: (_) @name (type_parameter_list)? @generics (base_list)? @extends body: (_)? @body) @type.class
(interface_declaration name: (_) @name (type_parameter_list)? @generics (base_list)? @extends body: (_) @body) @type.interface
(struct_declaration name: (_) @name (type_parameter_list)? @generics (base_list)? @extends body: (_)? @body) @type.struct
(record_declaration name: (_) @name (type_parameter_list)? @generics (base_list)? @extends body: (_)? @body) @type.record
(enum_declaration name: (_) @name body: (_) @body) @type.enum
(delegate_declaration name: (_) @name (type_parameter_list)? @generics) @type.delegate

; --- members ----------------------------------------------------------------------------
([(field_declaration (variable_declaration type: (_) @of (variable_declarator . name: (_) @name . "="? . (_)? @value) @member.field))
  (event_field_declaration (variable_declaration type: (_) @of (variable_declarator name: (_) @name) @member.field))] @whole)
(property_declaration type: (_) @of name: (_) @name accessors: (_)? @accessors value: (_)? @value) @member.property
(event_declaration type: (_) @of name: (_) @name accessors: (_) @accessors) @member.property
(indexer_declaration type: (_) @of "this" @name accessors: (_)? @accessors value: (_)? @value) @member.indexer
(enum_member_declaration name: (_) @name) @member.constant
(method_declaration returns: (_) @of name: (_) @name type_parameters: (_)? @generics parameters: (_) @parameters body: (_)? @body) @member.method
(operator_declaration type: (_) @of operator: _ @name parameters: (_) @parameters body: (_) @body) @member.operator
(conversion_operator_declaration type: (_) @of @name parameters: (_) @parameters body: (_) @body) @member.conversion
(constructor_declaration name: (_) @name parameters: (_) @parameters body: (_)? @body) @member.constructor
(destructor_declaration name: (_) @name parameters: (_) @parameters body: (_)? @body) @member.destructor
(local_function_statement type: (_) @of name: (_) @name parameters: (_) @parameters body: (_)? @body) @member.function
(constructor_initializer ["base" "this"] @name (argument_list) @arguments) @site.delegation

; --- parameters and locals --------------------------------------------------------------
(parameter_list (parameter type: (_)? @of name: (_) @name) @parameter.plain)
(bracketed_parameter_list (parameter type: (_)? @of name: (_) @name) @parameter.plain)
(parameter_list type: (_) @of name: (_) @name @parameter.variadic)
(lambda_expression parameters: (implicit_parameter) @name body: (_) @scope) @local.untyped
(lambda_expression parameters: (parameter_list (parameter type: (_)? @of name: (_) @name)) body: (_) @scope) @local.typed
(anonymous_method_expression parameters: (parameter_list (parameter type: (_)? @of name: (_) @name)) (block) @scope) @local.typed
([(block (local_declaration_statement (variable_declaration type: (_) @of (variable_declarator . name: (_) @name . "="? . (_)? @value) @local.typed)))
  (switch_section (local_declaration_statement (variable_declaration type: (_) @of (variable_declarator . name: (_) @name . "="? . (_)? @value) @local.typed)))
  (compilation_unit (global_statement (local_declaration_statement (variable_declaration type: (_) @of (variable_declarator . name: (_) @name . "="? . (_)? @value) @local.typed))))
  (using_statement (variable_declaration type: (_) @of (variable_declarator . name: (_) @name . "="? . (_)? @value) @local.typed))
  (fixed_statement (variable_declaration type: (_) @of (variable_declarator . name: (_) @name . "="? . (_)? @value) @local.typed))
  (for_statement initializer: (variable_declaration type: (_) @of (variable_declarator . name: (_) @name . "="? . (_)? @value) @local.typed))
  ] @scope)
(foreach_statement type: (_) @of left: (identifier) @name right: (_) @iterated) @local.element
(catch_clause (catch_declaration type: (_) @of name: (_) @name)) @local.caught
(declaration_pattern type: (_) @of name: (identifier) @name) @local.pattern
(declaration_expression type: (_) @of name: (identifier) @name) @local.pattern
(recursive_pattern type: (_) @of name: (identifier) @name) @local.pattern
(query_expression (from_clause name: (identifier) @name (_) @iterated)) @local.element

; --- sites ------------------------------------------------------------------------------
(object_creation_expression type: (_) @of arguments: (_)? @arguments) @site.creation
(variable_declaration type: (_) @of (variable_declarator (implicit_object_creation_expression (argument_list)? @arguments) @site.creation))
(property_declaration type: (_) @of value: (implicit_object_creation_expression (argument_list)? @arguments) @site.creation)
(property_declaration type: (_) @of value: (arrow_expression_clause (implicit_object_creation_expression (argument_list)? @arguments) @site.creation))
(implicit_object_creation_expression (argument_list)? @arguments) @site.creation
(invocation_expression function: [(identifier) @name (generic_name . (identifier) @name (type_argument_list) @generics)] arguments: (_) @arguments) @site.call
(invocation_expression function: (member_access_expression expression: _ @receiver
  name: [(identifier) @name (generic_name . (identifier) @name (type_argument_list) @generics)]) @callee arguments: (_) @arguments) @site.call
(invocation_expression function: (conditional_access_expression condition: (_) @receiver
  (member_binding_expression name: [(identifier) @name (generic_name . (identifier) @name (type_argument_list) @generics)])) arguments: (_) @arguments) @site.call
(member_access_expression expression: _ @receiver name: (_) @name) @site.access
(cast_expression type: (_) @of value: (_) @value) @site.cast
(as_expression left: (_) @value right: (_) @of) @site.cast
(is_expression right: (_) @of) @site.test
(declaration_pattern type: (_) @of) @site.test
(typeof_expression type: (_) @of) @site.literal
(throw_statement (_) @value) @site.throw
(throw_expression (_) @value) @site.throw
(assignment_expression left: (_) @name right: (_) @value) @site.assignment
[(prefix_unary_expression (_) @name) (postfix_unary_expression (_) @name)] @site.update
(attribute name: (_) @of) @site.annotation

; --- counts -----------------------------------------------------------------------------
[(for_statement) (foreach_statement) (while_statement) (do_statement)] @count.loop
[(if_statement) (catch_clause) (switch_section) (switch_expression_arm) (conditional_expression)] @count.branch
["&&" "||" "??"] @count.branch

; --- what did not parse --------------------------------------------------------------
[(ERROR) (MISSING)] @trouble.error
