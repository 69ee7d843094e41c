#!/usr/bin/env python3
"""Writes tops.gen.go: how hosts end, of Debian's package publicsuffix. Run it in this folder: python3 make_tops.py"""

LIST = "/usr/share/publicsuffix/public_suffix_list.dat"
HEAD = """// Made by make_tops.py; do not edit.
//
// The top-level domains of the Public Suffix List (https://publicsuffix.org), Mozilla Public License 2.0, as Debian's package
// publicsuffix has it.

package trouble

const tops = `
"""

tops = set()
for line in open(LIST, encoding="utf-8"):
    if "BEGIN PRIVATE" in line:
        break
    line = line.strip()
    if line and not line.startswith("//") and "." not in line.lstrip("*."):
        tops.add(line.lstrip("*.!"))
rows, row = [], ""
for t in sorted(tops - {""}):
    if len(row) + len(t) > 150:
        rows.append(row.rstrip())
        row = ""
    row += t + " "
with open("tops.gen.go", "w", encoding="utf-8") as out:
    out.write(HEAD + "\n".join(rows + [row.rstrip()]) + "\n`\n")
print(len(tops), "endings")
