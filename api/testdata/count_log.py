"""Counts a channel's log, as `vividporch export log` writes it, stream by stream. It knows the
event contract alone: nothing of how the house counts."""
import json, sys

people_of = {}  # account -> the account it is counted as, since two may be one person


def whose(p):
    k = f"{p['platform']}:{p['id']}"
    while k in people_of:
        k = people_of[k]
    return k


events = [json.loads(line) for line in open(sys.argv[1])]
for e in events:
    if e["type"] == "porch.book.merged":
        kept, gone = e["data"]["accounts"]
        people_of[gone] = kept
streams, now, seen = [], None, {}
for e in events:
    t, d = e["type"], e["data"]
    if t == "porch.desk.declared" and d["act"] in ("opened", "new") or t == "porch.stream.opened" and now is None:
        now = {"people": {}, "new": set(), "lines": 0, "house": 0, "brought": 0, "took": 0, "given": 0, "bookmarks": 0, "taken out": 0}
        streams.append(now)
    if now is None:
        continue
    if t == "porch.desk.declared" and d["act"] == "closed":
        now = None
        continue
    if t == "porch.chat.said":
        who = whose(d["person"])
        now["lines"] += 1
        now["people"][who] = now["people"].get(who, 0) + 1
    elif t == "porch.speech.said":
        now["house"] += 1
    elif t == "porch.raid.came":
        now["brought"] += d["viewers"]
    elif t == "porch.raid.went":
        now["took"] += d["viewers"]
    elif t.startswith("porch.support."):
        now["given"] += 1
    elif t == "porch.bookmark.set":
        now["bookmarks"] += 1
    elif t == "porch.chat.removed":
        now["taken out"] += 1
    if t in ("porch.chat.said", "porch.person.followed", "porch.raid.came") or t.startswith("porch.support."):
        who = whose(d["person"])
        now["people"].setdefault(who, 0)
        if who not in seen:
            seen[who] = len(streams)
for i, s in enumerate(streams):
    s["new"] = sum(1 for w in s["people"] if seen[w] == i + 1)
    s["people"] = len(s["people"])
json.dump(streams, sys.stdout)
