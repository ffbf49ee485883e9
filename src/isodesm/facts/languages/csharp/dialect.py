from isodesm.facts.languages.java.dialect import DIALECT as J
import dataclasses
DIALECT = dataclasses.replace(J, name="csharp", title="csharp", suffixes=(".csharp_",))
