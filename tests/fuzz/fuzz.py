"""Recipes and arguments that nobody would write, thrown at the command.

usage: fuzz.py SOURCE_DIR ACRE [--seed N] [--seconds S] [--keep DIR] [--only K]

Recipes are demos with parts grown anew from docs/recipe.schema.json, at and beyond the limits it
names; arguments are those that the command's own help lists. Whatever comes, a run ends in time,
with 0, 1 or 2, and 2 says why in one line; what the schema refuses the command refuses; a world
that compiles proves itself. Every failure is printed with the number that makes it again
(--only K), and kept in DIR.
"""
import argparse
import copy
import json
import math
import pathlib
import random
import re
import resource
import subprocess
import sys
import tempfile
import time

import jsonschema

SECONDS_A_RUN = 60

parser = argparse.ArgumentParser()
parser.add_argument("source", type=pathlib.Path)
parser.add_argument("acre")
parser.add_argument("--seed", type=int, default=1)
parser.add_argument("--seconds", type=float, default=60)
parser.add_argument("--keep", type=pathlib.Path)
parser.add_argument("--only", type=int)
parser.add_argument("--bytes", type=int, default=6 << 30, help="address space of a run; 0: as it comes (sanitizers)")
options = parser.parse_args()
options.acre = str(pathlib.Path(options.acre).resolve())

schema = json.loads((options.source / "docs/recipe.schema.json").read_text())
validator = jsonschema.Draft7Validator(schema)
demos = [json.loads(p.read_text()) for p in sorted((options.source / "demo").glob("*.acre"))]
assert demos, "there are no demos"

HOSTILE = [None, True, -1, 0, 1e308, -1e-320, "", "x", [], {}, [[]], "\u202e", "a\nb", 2**63, -(2**63), 0.1]
WORDS = ["", "0", "-1", "1", "7", "nan", "inf", "1e999", "9" * 30, "-" + "9" * 30, "0x10", "1,2", "1,2,3", "1;2",
         "-5,7", "2000000000,-2000000000", "1152921504606846976,0", "-9223372036854775808,9223372036854775807",
         "0,0,9x9", "0,0,0x5", "5x5", "70000x1", "a b", "a\nb", "żółć", "\u202e", "/", "/dev/full", "/dev/null",
         "composite", "height", "field:", "layer:x", "slice:3", "0.5,1", "1,0.5", "x" * 3000]


class Grower:
    """Grows values from a schema; names are mostly those that the recipe knows."""

    def __init__(self, rng, recipe):
        self.rng = rng
        self.names = sorted(set(self.idsIn(recipe))) or ["a"]

    def idsIn(self, node):
        if isinstance(node, dict):
            if isinstance(node.get("id"), str):
                yield node["id"]
            node = list(node.values())
        if isinstance(node, list):
            for member in node:
                yield from self.idsIn(member)

    def number(self, s, whole):
        low = s.get("minimum", s.get("exclusiveMinimum", -1e9))
        high = s.get("maximum", s.get("exclusiveMaximum", 1e9))
        way = self.rng.random()
        if way < 0.1:
            value = low
        elif way < 0.2:
            value = high
        elif way < 0.3:
            value = min(max(0, low), high)
        elif way < 0.65 and high > 0:  # As many small as large ones.
            least = max(low, 1e-3 if not whole else 1)
            value = math.exp(self.rng.uniform(math.log(least), math.log(max(least, high)))) if least > 0 else low
            value = value if low >= 0 or self.rng.random() < 0.5 else max(low, -value)
        else:
            value = self.rng.uniform(low, min(high, low + self.rng.choice([1, 10, 1000, 1e9])))
        return int(value) if whole else value

    def text(self, s):
        pattern = s.get("pattern", "")
        if "a-z0-9" in pattern:
            return self.rng.choice(self.names) if self.rng.random() < 0.85 else f"n{self.rng.randrange(9)}"
        if "0-9A-F" in pattern or "0-9a-fA-F" in pattern:
            return f"#{self.rng.randrange(1 << 24):06X}"
        if pattern.startswith("^B"):
            return self.rng.choice(["B678/S345678", "B5678/S45678", "B3/S23", "B14-26/S13-26", "B>13/S>12", "B/S1"])
        if "#." in pattern:
            return self.rng.choice(["###\n#.#\n#.#\n", "#.#", ".....\n.###.\n.#a#.\n", " # \n"])
        return self.rng.choice(["a", "Name", "żółć", "x" * s.get("maxLength", 20)])[: s.get("maxLength", 999)] or "a"

    def grow(self, s, depth=0):
        rng = self.rng
        if rng.random() < 0.004:
            return rng.choice(HOSTILE)
        if "$ref" in s:
            return self.grow(schema["definitions"][s["$ref"].rsplit("/", 1)[1]], depth)
        for key in ("oneOf", "anyOf"):
            if key in s and "properties" not in s:
                return self.grow(rng.choice(s[key]), depth)
        if "const" in s:
            return s["const"]
        if "enum" in s:
            return rng.choice(s["enum"])
        kind = s.get("type", "object" if "properties" in s else None)
        if isinstance(kind, list):
            kind = rng.choice(kind)
        if kind == "object":
            out = {}
            chance = 0.5 / (1 + depth / 3)
            for key, member in s.get("properties", {}).items():
                if key in s.get("required", []) or rng.random() < chance:
                    out[key] = self.grow(member, depth + 1)
            if "oneOf" in s:
                wanted = rng.choice(s["oneOf"]).get("required", [])
                for other in s["oneOf"]:
                    for key in other.get("required", []):
                        if key in wanted:
                            out.setdefault(key, self.grow(s["properties"][key], depth + 1))
                        else:
                            out.pop(key, None)
            return out
        if kind == "array":
            least = s.get("minItems", 0)
            most = min(s.get("maxItems", least + 4), max(least, 4))
            items = s.get("items", {})
            if isinstance(items, list):
                return [self.grow(i, depth + 1) for i in items]
            out = [self.grow(items, depth + 1) for _ in range(rng.randint(least, most))]
            for n, member in enumerate(out):  # Ids are mostly taken once.
                if isinstance(member, dict) and isinstance(member.get("id"), str) and rng.random() < 0.95:
                    member["id"] = f"{member['id'][:50]}-{n}" if any(
                        isinstance(o, dict) and o.get("id") == member["id"] for o in out[:n]) else member["id"]
            return out
        if kind == "boolean":
            return rng.random() < 0.5
        if kind in ("number", "integer"):
            return self.number(s, kind == "integer")
        if kind == "string":
            return self.text(s)
        if kind == "null":
            return None
        return rng.choice(HOSTILE)

    def places(self, value, s, path=()):
        """All places of a recipe, with what the schema says of them."""
        while "$ref" in s:
            s = schema["definitions"][s["$ref"].rsplit("/", 1)[1]]
        yield path, s
        for key in ("oneOf", "anyOf"):
            if key in s and "properties" not in s:
                for one in s[key]:
                    if jsonschema.Draft7Validator({**one, "definitions": schema["definitions"]}).is_valid(value):
                        yield from self.places(value, one, path)
                        break
        if isinstance(value, dict):
            for key, member in s.get("properties", {}).items():
                if key in value:
                    yield from self.places(value[key], member, path + (key,))
                elif len(path) < 3:
                    yield path + (key,), member
        if isinstance(value, list) and isinstance(s.get("items"), dict):
            for n, member in enumerate(value):
                yield from self.places(member, s["items"], path + (n,))


def strangeRecipe(rng):
    recipe = copy.deepcopy(rng.choice(demos))
    for _ in range(rng.choice([1, 1, 2, 3, 6])):
        grower = Grower(rng, recipe)
        path, s = rng.choice([p for p in grower.places(recipe, schema) if p[0]])
        node = recipe
        try:
            for key in path[:-1]:
                node = node[key]
            node[path[-1]] = grower.grow(s)
        except (TypeError, KeyError, IndexError):
            pass  # A hostile value stands there already.
    if rng.random() < 0.5:  # Small worlds are soon looked through.
        side = rng.choice([1, 7, 64, 300])
        first = rng.choice([0, -side // 2, 2_000_000_000, -2_000_000_000])
        if isinstance(recipe.get("frame"), dict) and isinstance(recipe["frame"].setdefault("bounds", {}), dict):
            for axis in "xz":
                recipe["frame"]["bounds"][axis] = {"min": first, "extent": side}
    return recipe


def limits():
    if options.bytes:
        resource.setrlimit(resource.RLIMIT_AS, (options.bytes, options.bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def run(args, folder):
    began = time.monotonic()
    try:
        done = subprocess.run([options.acre, *args], cwd=folder, capture_output=True, timeout=SECONDS_A_RUN,
                              preexec_fn=limits, stdin=subprocess.DEVNULL)
    except subprocess.TimeoutExpired:
        return None, "", f"no end after {SECONDS_A_RUN} s"
    said = done.stderr.decode("utf-8", "replace")
    fault = ""
    if done.returncode not in (0, 1, 2):
        fault = f"exit code {done.returncode}"
    elif done.returncode == 2 and (said.count("\n") != 1 or not said.startswith("acre: ")):
        fault = "not one line"
    elif done.returncode == 2 and done.stdout:
        fault = "results of a run that failed"
    elif done.returncode != 2 and said:
        fault = "words on the error stream"
    left = [p.name for p in pathlib.Path(folder).iterdir() if ".part" in p.name]
    if left:
        fault = f"left behind: {left}"
    return done.returncode, said, fault


def optionsOf(verb):
    text = subprocess.run([options.acre, verb, "--help"], capture_output=True, text=True).stdout
    return [(name, bool(kind)) for name, kind in
            re.findall(r"^\s+(--[a-z-]+)(?:,--[a-z-]+)*( [A-Z]+\b)?", text, re.M) if name != "--help"]


VERBS = ["census", "check", "chunk", "find", "info", "map", "plumb", "prove", "seeds", "section", "traverse", "view"]
OPTIONS = {verb: optionsOf(verb) for verb in VERBS}
assert all(OPTIONS.values()), OPTIONS
USUAL = [["info"], ["plumb"], ["chunk", "--hash"], ["check"], ["census"], ["find"],
         ["map", "--size", "64x48", "--out", "o.png"], ["section", "--out", "o.png", "--size", "80x60"],
         ["view", "--out", "o.png", "--size", "80x60", "--distance", "48"],
         ["prove", "--side", "12", "--threads", "2"], ["traverse", "--fast", "--seconds", "1"]]


def strangeArguments(rng):
    verb = rng.choice(VERBS)
    args = [verb, rng.choice(["first-steps", "swallet-edge", "lantern-shelf", "underkiln", "saltfen-reach"])]
    for name, takes in rng.sample(OPTIONS[verb], min(len(OPTIONS[verb]), rng.choice([1, 1, 2, 3]))):
        args.append(name)
        if takes and rng.random() < 0.97:
            args.append(rng.choice(WORDS) if rng.random() < 0.8 else str(rng.randint(-10, 300)))
    if verb == "traverse":  # In real time it takes minutes.
        args = args[:2] + ["--fast", "--seconds", "1"] + args[2:]
    if rng.random() < 0.7 and "--out" not in args and ("--out", True) in OPTIONS[verb]:
        args += ["--out", rng.choice(["o.png", "o.csv", "o.json", "o.obj", "o.raw", "o.svg", "o.tif"])]
    return args


def trial(k):
    """What is wrong with trial k: nothing, or (what, arguments, recipe)."""
    rng = random.Random(f"{options.seed} {k}")
    with tempfile.TemporaryDirectory() as folder:
        if k % 3 == 0:
            args = [a for a in strangeArguments(rng) if "\0" not in a]
            code, said, fault = run(args, folder)
            return (f"{fault}: {said[:300]}", args, None) if fault else None
        recipe = strangeRecipe(rng)
        text = json.dumps(recipe)
        file = pathlib.Path(folder) / "world.acre"
        file.write_text(text)
        code, said, fault = run(["info", "world.acre"], folder)
        if fault:
            return f"{fault}: {said[:300]}", ["info"], text
        if code == 0 and not validator.is_valid(recipe):
            error = jsonschema.exceptions.best_match(validator.iter_errors(recipe))
            return f"accepted, but the schema says {error.message[:200]}", ["info"], text
        if code == 2:
            return None
        for usual in rng.sample(USUAL, 3):
            code, said, fault = run([usual[0], "world.acre", *usual[1:]], folder)
            if usual[0] == "prove" and code == 1:
                fault = "BROKEN"
            if fault:
                return f"{fault}: {said[:300]}", usual, text
    return None


began = time.monotonic()
faults = trials = 0
ks = [options.only] if options.only is not None else range(10**9)
for k in ks:
    if options.only is None and time.monotonic() - began > options.seconds:
        break
    trials += 1
    found = trial(k)
    if not found:
        continue
    faults += 1
    what, args, text = found
    print(f"trial {k} of seed {options.seed}: {' '.join(args)}: {what}", flush=True)
    if options.keep and text:
        options.keep.mkdir(parents=True, exist_ok=True)
        (options.keep / f"{options.seed}-{k}.acre").write_text(text)
print(f"{trials} trials of seed {options.seed}, {faults} faults")
sys.exit(1 if faults else 0)
