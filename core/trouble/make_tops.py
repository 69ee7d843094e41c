#!/usr/bin/env python3
"""Writes tops.gen.go: how hosts end, of Debian's package publicsuffix. Run it in this folder: python3 make_tops.py

Of the endings with two letters all are taken, and in other scripts those of countries; of the others those that anybody can
have a host under and that people use: an ending that is one company's own needs a scheme, or a path, to be a link.
"""

LIST = "/usr/share/publicsuffix/public_suffix_list.dat"
ANYBODYS = """agency app art bar best bet bid bio biz blog bond cafe cam camp cash casino center chat city click cloud club codes com
community company cool date deals design dev digital directory download edu email events expert express fans finance fit foundation fun
fund fyi gallery game games gift gifts gives giving global gold gov group guide guru help host hosting house icu inc info ink int institute
international irish kim land lat legal life link live loan lol love ltd market mba media men mil mobi moda mom money monster name net network
news one online org page party photo photos pics pizza plus poker press pro promo pub quest racing radio red rent report rest review reviews
rip rocks run sale school science services shop show site social software solutions space sport store stream studio style support surf systems
team tech today tools top tours town toys trade training travel tube uno vegas video vip vote web webcam website wiki win work works world wtf
xyz yoga zone""".split()
HEAD = """// Made by make_tops.py; do not edit.
//
// Top-level domains of the Public Suffix List (https://publicsuffix.org), Mozilla Public License 2.0, as Debian's package
// publicsuffix has it.

package trouble

const tops = `
"""

COUNTRIES = "рф бел срб укр мкд қаз ευ ею бг ελ հայ გე 中国 中國 台湾 台灣 香港 澳門 新加坡 한국 भारत ไทย ලංකා ایران مصر المغرب تونس السعودية قطر عمان الاردن فلسطين امارات سورية العراق پاکستان বাংলা".split()

known = set()
for line in open(LIST, encoding="utf-8"):
    if "BEGIN PRIVATE" in line:
        break
    line = line.strip()
    if line and not line.startswith("//") and "." not in line.lstrip("*."):
        known.add(line.lstrip("*.!"))
tops = {t for t in known if len(t) == 2 and t.isascii()} | known & set(COUNTRIES) | known & set(ANYBODYS)
rows, row = [], ""
for t in sorted(tops - {""}):
    if len(row) + len(t) > 150:
        rows.append(row.rstrip())
        row = ""
    row += t + " "
with open("tops.gen.go", "w", encoding="utf-8") as out:
    out.write(HEAD + "\n".join(rows + [row.rstrip()]) + "\n`\n")
print(len(tops), "endings")
