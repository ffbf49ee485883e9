; What to capture in Python source. See the Java file for the vocabulary.

; --- the file ---------------------------------------------------------------------------
[(import_statement) (import_from_statement)] @file.import
(decorated_definition (decorator)+ @decorator definition: (_) @definition) @file.decorated

; --- types and members --------------------------------------------------------------------
(class_definition name: (_) @name type_parameters: (_)? @generics superclasses: (_)? @extends body: (_) @body) @type.class
(function_definition name: (_) @name type_parameters: (_)? @generics parameters: (_) @parameters
  return_type: (_)? @of body: (_) @body) @member.function

; --- parameters and locals --------------------------------------------------------------
(parameters (identifier) @name @parameter.plain)
(parameters (default_parameter name: (_) @name value: (_) @default) @parameter.plain)
(parameters (typed_parameter . (identifier) @name type: (_) @of) @parameter.plain)
(parameters (typed_default_parameter name: (_) @name type: (_) @of value: (_) @default) @parameter.plain)
(parameters (list_splat_pattern (identifier) @name) @parameter.variadic)
(parameters (dictionary_splat_pattern (identifier) @name) @parameter.variadic)
(parameters (typed_parameter . (list_splat_pattern (identifier) @name) type: (_) @of) @parameter.variadic)
(parameters (typed_parameter . (dictionary_splat_pattern (identifier) @name) type: (_) @of) @parameter.variadic)
(lambda parameters: (lambda_parameters [(identifier) @name (default_parameter name: (_) @name)]) body: (_) @scope) @local.untyped

(assignment left: (identifier) @name type: (_)? @of right: (_)? @value) @local.assigned
(named_expression name: (_) @name value: (_) @value) @local.assigned
(assignment left: [(pattern_list (identifier) @name) (tuple_pattern (identifier) @name)]) @local.untyped
(with_item value: (as_pattern (_) @value alias: (as_pattern_target (identifier) @name))) @local.assigned
(except_clause value: (as_pattern (_) @of alias: (as_pattern_target (identifier) @name))) @local.caught
(for_statement left: (identifier) @name right: (_) @iterated) @local.element
(for_statement left: [(pattern_list (identifier) @name) (tuple_pattern (identifier) @name)]) @local.untyped
([(list_comprehension (for_in_clause left: (identifier) @name right: (_) @iterated))
  (set_comprehension (for_in_clause left: (identifier) @name right: (_) @iterated))
  (dictionary_comprehension (for_in_clause left: (identifier) @name right: (_) @iterated))
  (generator_expression (for_in_clause left: (identifier) @name right: (_) @iterated))] @local.element)

; --- sites ------------------------------------------------------------------------------
(call function: (identifier) @name arguments: (_) @arguments) @site.call
(call function: (attribute object: (_) @receiver attribute: (_) @name) @callee arguments: (_) @arguments) @site.call
(attribute object: (_) @receiver attribute: (_) @name) @site.access
(raise_statement . (_) @value) @site.throw
(assignment left: (attribute) @name @written type: (_)? @of right: (_)? @value) @site.assignment
(augmented_assignment left: (_) @name right: (_) @value) @site.assignment
(global_statement (identifier) @name) @site.assignment
(decorator [(identifier) (attribute) (call function: (_) @of)] @of) @site.annotation

; --- counts -----------------------------------------------------------------------------
[(for_statement) (while_statement) (list_comprehension) (set_comprehension) (dictionary_comprehension)
 (generator_expression)] @count.loop
[(if_statement) (elif_clause) (except_clause) (conditional_expression) (boolean_operator) (case_clause)] @count.branch

; --- what did not parse --------------------------------------------------------------
[(ERROR) (MISSING)] @trouble.error
