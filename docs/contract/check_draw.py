#!/usr/bin/env python3
"""Checks a draw: python3 check_draw.py FILE, where FILE is what /draws/ID/list answers. Needs nothing but Python 3.

It prints what it checked and exits with 0, or prints what is wrong and exits with 1.
"""
import hashlib
import hmac
import json
import sys


def sha256(data: bytes) -> bytes:
    return hashlib.sha256(data).digest()


def reduced(number_of_try, n: int) -> int:
    """A number below n, every one as likely."""
    limit = (2**64 - 1) // n * n
    attempt = 0
    while True:
        x = number_of_try(attempt)
        if x < limit:
            return x % n
        attempt += 1


def pick(secret: bytes, digest: bytes, which: int, n: int) -> int:
    def number(attempt):
        message = digest + which.to_bytes(4, "big") + attempt.to_bytes(4, "big")
        return int.from_bytes(hmac.new(secret, message, hashlib.sha256).digest()[:8], "big")

    return reduced(number, n)


def chosen(secret: bytes, low: int, high: int) -> int:
    def number(attempt):
        return int.from_bytes(hmac.new(secret, b"number" + attempt.to_bytes(4, "big"), hashlib.sha256).digest()[:8], "big")

    return low + reduced(number, high - low + 1)


def kept(secret: bytes, answers) -> str:
    return hmac.new(secret, "".join(a + "\n" for a in answers).encode(), hashlib.sha256).hexdigest()


def mark(draw: str, account: str) -> str:
    return sha256((draw + "\n" + account).encode()).hex()


def digest_of(marks) -> bytes:
    return sha256(("\n".join(sorted(set(marks))) + "\n").encode())


def check(d) -> list:
    """What is wrong with a draw; nothing for one that is right."""
    wrong = []
    if not d.get("secret"):
        return ["the secret is not published yet: come back once entries are closed"]
    secret = bytes.fromhex(d["secret"])
    if sha256(secret).hex() != d["commit"]:
        wrong.append("the secret is not the one that was committed to before anybody entered")
    if d.get("keeps") and kept(secret, d["keeps"]) != d["kept"]:
        wrong.append("what had to be guessed is not what was kept before anybody guessed")
    if d["way"] == "number":
        number = int(d["keeps"][0]) if d.get("keeps") else chosen(secret, d.get("from", 0), d.get("to", 0))
        if number != d.get("answer"):
            wrong.append("the number is not the one that was kept, or that the secret stands for")
    for e in d["entries"]:
        if e.get("account") and mark(d["id"], e["account"]) != e["mark"]:
            wrong.append("entry %d has a mark that is not its account's" % e["number"])
    marks = sorted({e["mark"] for e in d["entries"] if e["in"]})
    digest = digest_of(marks)
    if digest.hex() != d["digest"]:
        wrong.append("the list is not the one that was closed")
    if d["way"] in ("word", "lately"):
        left, n = list(marks), 0
        for p in d["picks"]:
            if p["n"] != n or not left:
                wrong.append("pick %d is out of its order" % p["n"])
                break
            at = pick(secret, digest, n, len(left))
            if left[at] != p["mark"]:
                wrong.append("pick %d is not the one that follows from secret and list" % n)
            left.remove(p["mark"]) if p["mark"] in left else None
            n += 1
    elif d["way"] == "number":
        guesses = sorted((abs(e["guess"] - d["answer"]), e["number"]) for e in d["entries"] if e["in"] and "guess" in e)
        if d["picks"] and guesses and d["picks"][0]["number"] != guesses[0][1]:
            wrong.append("the first pick is not the nearest guess, or of two the earlier")
    return wrong


def main() -> int:
    with open(sys.argv[1], encoding="utf-8") as f:
        d = json.load(f)
    wrong = check(d)
    for w in wrong:
        print("WRONG: " + w)
    if not wrong:
        print("right: %d entries, %d picks, digest %s" % (len(d["entries"]), len(d["picks"]), d["digest"]))
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
