from isodesm.facts.languages.java.dialect import DIALECT as J
import dataclasses
DIALECT = dataclasses.replace(J, name="php", title="php", suffixes=(".php_",))
