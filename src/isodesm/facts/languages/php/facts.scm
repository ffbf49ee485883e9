; What to capture in PHP source. See the Java file for the vocabulary.

; --- the file ---------------------------------------------------------------------------
(namespace_definition name: (_)? @name body: (_)? @body) @file.namespace
(namespace_use_declaration) @file.import

; --- types ------------------------------------------------------------------------------
(class_declaration name: (_) @name (base_clause)? @extends (class_interface_clause)? @implements body: (_) @body) @type.class
(interface_declaration name: (_) @name (base_clause)? @extends body: (_) @body) @type.interface
(trait_declaration name: (_) @name body: (_) @body) @type.trait
(enum_declaration name: (_) @name (class_interface_clause)? @implements body: (_) @body) @type.enum
(object_creation_expression (anonymous_class (base_clause)? @extends (class_interface_clause)? @implements body: (_) @body) @type.anonymous)
(use_declaration) @member.uses

; --- members ----------------------------------------------------------------------------
(property_declaration type: (_)? @of (property_element name: (_) @name default_value: (_)? @value) @member.field) @whole
(const_declaration (const_element . (name) @name (_) @value) @member.constfield) @whole
(enum_case name: (_) @name) @member.constant
(method_declaration name: (_) @name parameters: (_) @parameters return_type: (_)? @of body: (_)? @body) @member.method
(function_definition name: (_) @name parameters: (_) @parameters return_type: (_)? @of body: (_) @body) @member.function

; --- parameters and locals --------------------------------------------------------------
(simple_parameter type: (_)? @of name: (_) @name default_value: (_)? @default) @parameter.plain
(property_promotion_parameter type: (_)? @of name: (_) @name default_value: (_)? @default) @parameter.promoted
(variadic_parameter type: (_)? @of name: (_) @name) @parameter.variadic
([(anonymous_function parameters: (formal_parameters (simple_parameter type: (_)? @of name: (_) @name)) body: (_) @scope)
  (arrow_function parameters: (formal_parameters (simple_parameter type: (_)? @of name: (_) @name)) body: (_) @scope)] @local.typed)
(assignment_expression left: (variable_name) @name right: (_) @value) @local.assigned
(foreach_statement . (_) @iterated . (variable_name) @name) @local.element
(foreach_statement . (_) @iterated . (pair (_) (variable_name) @name)) @local.element
(catch_clause type: (_) @of name: (_) @name) @local.caught

; --- sites ------------------------------------------------------------------------------
(object_creation_expression [(name) (qualified_name) (relative_name) (variable_name) (member_access_expression) (subscript_expression)
  (scoped_property_access_expression) (parenthesized_expression) (dynamic_variable_name)] @of (arguments)? @arguments) @site.creation
(function_call_expression function: [(name) (qualified_name)] @name arguments: (_) @arguments) @site.call
(member_call_expression object: (_) @receiver name: (_) @name arguments: (_) @arguments) @site.call
(nullsafe_member_call_expression object: (_) @receiver name: (_) @name arguments: (_) @arguments) @site.call
(scoped_call_expression scope: (_) @receiver name: (_) @name arguments: (_) @arguments) @site.call
[(member_access_expression object: (_) @receiver name: (_) @name)
 (nullsafe_member_access_expression object: (_) @receiver name: (_) @name)
 (scoped_property_access_expression scope: (_) @receiver name: (_) @name)] @site.access
(class_constant_access_expression . (_) @receiver (_) @name) @site.constant
(throw_expression (_) @value) @site.throw
(assignment_expression left: [(member_access_expression) (scoped_property_access_expression) (subscript_expression)] @name
  right: (_) @value) @site.assignment
(augmented_assignment_expression left: (_) @name right: (_) @value) @site.assignment
(update_expression argument: (_) @name) @site.assignment
(binary_expression operator: "instanceof" right: [(name) (qualified_name)] @of) @site.test
(attribute [(name) (qualified_name)] @of) @site.annotation

; --- counts -----------------------------------------------------------------------------
[(for_statement) (foreach_statement) (while_statement) (do_statement)] @count.loop
[(if_statement) (else_if_clause) (catch_clause) (case_statement) (conditional_expression) (match_conditional_expression)] @count.branch
["&&" "||" "and" "or" "??"] @count.branch

; --- what did not parse --------------------------------------------------------------
[(ERROR) (MISSING)] @trouble.error
