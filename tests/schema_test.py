"""Holds every demo, and a set of faulty recipes, against docs/recipe.schema.json.

usage: schema_test.py SOURCE_DIR ACRE
The command must refuse what the schema refuses.
"""
import copy
import json
import pathlib
import subprocess
import sys
import tempfile

import jsonschema

source, acre = pathlib.Path(sys.argv[1]), sys.argv[2]
schema = json.loads((source / "docs/recipe.schema.json").read_text())
jsonschema.Draft7Validator.check_schema(schema)
validator = jsonschema.Draft7Validator(schema)

demos = sorted((source / "demo").glob("*.acre"))
assert demos, "there are no demos"
for demo in demos:
    validator.validate(json.loads(demo.read_text()))

# One fault at a time: path of keys, and the value that does not belong there.
faults = [
    (["format"], "else"),
    (["version"], 2),
    (["generation"], -1),
    (["name"], 7),
    (["seed"], 41),
    (["frame", "kind"], "cube"),
    (["frame", "chunk"], 0),
    (["frame", "chunk"], 2.5),
    (["frame", "sea"], 1e7),
    (["frame", "more"], 1),
    (["frame", "bounds", "x"], {"min": 0, "extent": 0}),
    (["materials", 0, "colour"], "#12345G"),
    (["materials", 0, "state"], "gas"),
    (["heights", "layers", 0, "kind"], "magic"),
    (["heights", "layers", 0, "width"], 0),
    (["heights", "layers", 0, "octaves"], 33),
    (["heights", "layers", 0, "gain"], -1),
    (["heights", "layers", 0, "sampling"], "somehow"),
    (["heights", "layers", 0, "value"], 1),
    (["heights", "layers", 0, "combine"], "divide"),
    (["heights", "layers", 0, "curve"], [[0, 1], [2]]),
    (["heights", "layers", 0, "rotate"], 1),
    (["heights", "layers", 0, "jitter"], 0.5),
    (["heights", "layers", 2, "warp", "passes"], 4),
    (["heights", "layers", 2, "warp", "kind"], "ramp"),
    (["heights", "layers", 2, "mask", "field"], 5),
    (["heights", "layers", 2, "mask", "high"], "top"),
    (["heights", "clamp"], {"low": 1}),
    (["heights", "on"], "yes"),
    (["fields", 0, "more"], 1),
    (["frame", "sea"], {"share": 1.5}),
    (["climate", "moisture", "layers", 0], {"id": "w", "kind": "water-distance", "reach": 300}),
    (["biomes", "more"], 1),
    (["level"], {"processes": [], "more": 1}),
    (["level"], {"processes": [], "margin": 0}),
    (["level"], {"processes": [{"id": "a", "kind": "automaton", "fill": {"at": 0.4}}]}),
    (["level"], {"processes": [{"id": "a", "kind": "automaton", "rule": "BS"}]}),
    (["level"], {"processes": [{"id": "a", "kind": "rooms", "pieces": [{"id": "b"}]}]}),
    (["level"], {"processes": [], "places": [{"id": "a", "material": None, "mark": "ab"}]}),
    (["caves"], {"more": 1}),
    (["caves"], {"seaCover": 0}),
    (["caves"], {"tunnels": [{"id": "a", "mouths": 2}]}),
    (["caves"], {"tunnels": [{"id": "a", "side": 2.5}]}),
    (["caves"], {"automata": [{"id": "a", "kind": "floors", "fill": 1.5, "floors": []}]}),
    (["caves"], {"automata": [{"id": "a", "kind": "floors", "steps": 1000000, "floors": []}]}),
    (["biomes", "chart", "rules"], "magic"),
    (["biomes", "chart", "x"], "rain"),
    (["biomes", "chart", "y"], {"field": "uplands", "low": 0}),
    (["biomes", "slices", 0, "biome"], 7),
    (["biomes", "areas", 0, "x"], [0]),
    (["biomes", "areas", 0, "painting"], {"columns": 3}),
    (["biomes", "areas", 0], {"id": "p", "painting": {"columns": 2, "biomes": [], "rows": ["0 x", "2*0"]}}),
    (["biomes", "list", 0, "colour"], "blue"),
    (["biomes", "list", 0, "tags"], ["Capital"]),
    (["biomes", "list", 1, "relief", "factor"], 9),
    (["biomes", "list", 1, "bands"], {"like": "x"}),
    (["biomes", "list", 1, "ideal"], {"x": 0}),
    (["biomes", "border", "chart"], 0.3),
    (["biomes", "regions"], {"size": 0}),
    (["biomes", "regions"], {"size": 64, "warp": {"cells": 1e9}}),
    (["biomes", "regions"], {"size": 64, "biome": "any"}),
    (["climate", "more"], 1),
    (["climate", "on"], 1),
    (["climate", "temperature", "low"], "cold"),
    (["climate", "temperature", "unit", "name"], "degrees of a thermometer in the shade"),
    (["climate", "moisture", "layers"], {}),
    (["climate", "temperature", "layers", 1, "reach"], 0),
    (["climate", "temperature", "layers", 2, "width"], 5),
    (["strata", "slopes", 0, "from"], -1),
    (["strata", "bands", 2, "edge", "kind"], "soft"),
    (["strata", "bands", 2, "edge", "slope"], "cubic"),
    (["strata", "bands", 0, "below"], {"land": 1}),
    (["strata", "bands", 0, "material"], 3),
]
base = json.loads((source / "demo/saltfen-reach.acre").read_text())
for path, value in faults:
    recipe = copy.deepcopy(base)
    node = recipe
    for key in path[:-1]:
        node = node[key]
    node[path[-1]] = value
    assert not validator.is_valid(recipe), f"the schema accepts {path} = {value!r}"
    with tempfile.NamedTemporaryFile("w", suffix=".acre") as file:
        json.dump(recipe, file)
        file.flush()
        run = subprocess.run([acre, "info", file.name], capture_output=True, text=True)
        assert run.returncode == 2, f"the command accepts {path} = {value!r}"
# What the program must have of worlds of blocks, and what it fills in of a bare layer.
blocks = json.loads((source / "demo/swallet-edge.acre").read_text())
bare = copy.deepcopy(base)
bare["heights"]["layers"] = [{"id": "a", "kind": "gradient", "width": 90, "amplitude": 4}]
bare["fields"][0]["layers"] = [
    {"id": "a", "kind": "value", "fractal": "fbm", "width": 90, "amplitude": 4}]


def without(recipe, *path):
    recipe = copy.deepcopy(recipe)
    node = recipe
    for key in path[:-1]:
        node = node[key]
    del node[path[-1]]
    return recipe


def changed(recipe, value, *path):
    recipe = copy.deepcopy(recipe)
    node = recipe
    for key in path[:-1]:
        node = node[key]
    node[path[-1]] = value
    return recipe


for what, recipe, good in [
    ("blocks", blocks, True),
    ("blocks without rock", without(blocks, "strata", "rock"), False),
    ("blocks without beds", changed(blocks, [], "strata", "rock", "beds"), False),
    ("blocks without strata", changed(without(without(blocks, "strata", "rock"), "strata", "ores"), False, "strata", "on"), True),
    ("a bare layer", bare, True),
    ("a rule of nothing", changed(base, {"processes": [{"id": "a", "kind": "automaton", "rule": "B/S"}]}, "level"), False),
    ("a rule with a digit twice", changed(base, {"processes": [{"id": "a", "kind": "automaton", "rule": "B33/S2"}]}, "level"), False),
    ("a rule", changed(base, {"processes": [{"id": "a", "kind": "automaton", "rule": "B3/S"}]}, "level"), True),
]:
    assert validator.is_valid(recipe) == good, f"the schema is wrong about {what}"
    with tempfile.NamedTemporaryFile("w", suffix=".acre") as file:
        json.dump(recipe, file)
        file.flush()
        run = subprocess.run([acre, "info", file.name], capture_output=True, text=True)
        assert (run.returncode == 0) == good, f"the command is wrong about {what}: {run.stderr}"
print(f"{len(demos)} demos and {len(faults)} faults held against the schema")
