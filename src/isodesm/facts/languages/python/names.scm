; Bare names that are read. There are more of them than of all else, and few are those of imports, which alone are kept: so
; they are asked for apart, without what a match of many captures costs.
[(argument_list (identifier) @name) (keyword_argument value: (identifier) @name)
 (assignment right: (identifier) @name) (return_statement (identifier) @name)
 (subscript (identifier) @name) (comparison_operator (identifier) @name)
 (boolean_operator (identifier) @name) (not_operator (identifier) @name)
 (binary_operator (identifier) @name) (unary_operator (identifier) @name)
 (list (identifier) @name) (tuple (identifier) @name) (set (identifier) @name)
 (pair (identifier) @name) (conditional_expression (identifier) @name)
 (for_statement right: (identifier) @name) (for_in_clause right: (identifier) @name)
 (with_item (identifier) @name) (if_statement condition: (identifier) @name)
 (while_statement condition: (identifier) @name) (if_clause (identifier) @name)
 (await (identifier) @name) (expression_list (identifier) @name) (yield (identifier) @name)
 (attribute object: (identifier) @name) (call function: (identifier) @name)
 (augmented_assignment (identifier) @name) (default_parameter value: (identifier) @name)
 (typed_default_parameter value: (identifier) @name)
 (list_splat (identifier) @name) (dictionary_splat (identifier) @name)
 (interpolation (identifier) @name) (parenthesized_expression (identifier) @name)]
