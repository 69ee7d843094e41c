#!/usr/bin/env python3
"""Writes table.gen.go: which characters look alike, as the standard's own data has it.

The data is that of UTS #39 (confusables.txt) as the Unicode Consortium ships it compiled in ICU; it is read through
PyICU (Debian: python3-icu). Run it in this folder after a new version of the standard: python3 make.py
"""
import icu

checker = icu.SpoofChecker()
nfd = icu.Normalizer2.getNFDInstance()
lines, n = [], 0
for cp in range(0x80, 0x30000):
    c = chr(cp)
    if 0xD800 <= cp <= 0xDFFF or 0xAC00 <= cp <= 0xD7A3 or icu.Char.charType(c) == icu.UCharCategory.UNASSIGNED:
        continue
    skeleton = checker.getSkeleton(0, c)
    if skeleton and skeleton != nfd.normalize(c):
        lines.append(c + skeleton)
        n += 1


def quoted(s):
    return '"' + "".join(c if " " <= c <= "~" and c not in '"\\' else "\\u%04x" % ord(c) if ord(c) < 0x10000 else "\\U%08x" % ord(c) for c in s) + '"'


with open("table.gen.go", "w", encoding="utf-8") as out:
    out.write(f"""// Made by make.py; do not edit.
//
// From the confusables of Unicode Technical Standard #39, version {icu.UNICODE_VERSION}, as ICU {icu.ICU_VERSION} holds them.
// Copyright Unicode, Inc.; see https://www.unicode.org/terms_of_use.html

package lookalike

// Version is that of the standard's data.
const Version = "{icu.UNICODE_VERSION}"

// confusables are characters, each with its skeleton behind it.
var confusables = [...]string{{
""")
    for line in lines:
        out.write("\t" + quoted(line) + ",\n")
    out.write("}\n")
print(n, "characters")
