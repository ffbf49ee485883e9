; Bare names that are read. There are more of them than of all else, and few are those of imports, which alone are kept: so
; they are asked for apart, without what a match of many captures costs.
[(arguments (identifier) @name) (assignment_expression right: (identifier) @name)
 (assignment_expression left: (identifier) @name)
 (variable_declarator value: (identifier) @name) (return_statement (identifier) @name)
 (member_expression object: (identifier) @name) (call_expression function: (identifier) @name)
 (subscript_expression (identifier) @name) (binary_expression (identifier) @name)
 (unary_expression (identifier) @name) (ternary_expression (identifier) @name)
 (pair value: (identifier) @name) (array (identifier) @name) (spread_element (identifier) @name)
 (parenthesized_expression (identifier) @name) (await_expression (identifier) @name)
 (as_expression (identifier) @name) (non_null_expression (identifier) @name)
 (arrow_function body: (identifier) @name) (template_substitution (identifier) @name)
 (for_in_statement right: (identifier) @name) (public_field_definition value: (identifier) @name)
 (required_parameter value: (identifier) @name) (assignment_pattern right: (identifier) @name)
 (export_statement value: (identifier) @name) (expression_statement (identifier) @name)
 (satisfies_expression (identifier) @name) (sequence_expression (identifier) @name)
 (object (shorthand_property_identifier) @name) (update_expression (identifier) @name)
 (yield_expression (identifier) @name) (throw_statement (identifier) @name)]
