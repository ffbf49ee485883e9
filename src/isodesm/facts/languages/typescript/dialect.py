from isodesm.facts.languages.java.dialect import DIALECT as J
import dataclasses
DIALECT = dataclasses.replace(J, name="typescript", title="typescript", suffixes=(".typescript_",))
