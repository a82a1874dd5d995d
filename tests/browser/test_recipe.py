"""The recipe of a layer worked on as an artist does: nodes found, wired, mended, packed, taken back; by mouse and by keys."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
from playwright.sync_api import Page, expect

from sunglaze.core.effect.recipe import read_recipe
from tests.browser.workbench import bare, new_effect, pick, pixels, settle, until

OWN = {"id": "own", "name": "Own recipe", "kind": "own"}
BELOW = {"id": "below", "kind": "below", "at": [40, 60]}


def recipe(nodes: list[dict[str, Any]], wires: list[str], result: str | None, **more: Any) -> dict[str, Any]:
    ends = [dict(zip(("from", "to"), wire.split(" > "), strict=True)) for wire in wires]
    return {"format": "sun-glaze/recipe", "version": 1, "nodes": nodes, "wires": ends, "result": result, **more}


def open_recipe(page: Page, address: str, made: dict[str, Any]) -> str:
    effect = new_effect(page, address, [{**OWN, "recipe": made}])
    page.keyboard.press("3")
    page.locator(".slip").first.wait_for()
    return effect


def kept(page: Page, address: str, effect: str) -> dict[str, Any]:
    settle(page)
    layers: list[dict[str, Any]] = page.request.get(f"{address}/api/effects/{effect}").json()["effect"]["layers"]
    return layers[0]


def place(page: Page, name: str) -> None:
    """Find a node and place it, by keys; it is then chosen."""
    page.get_by_role("application").focus()
    page.keyboard.press("f")
    page.get_by_label("Find a node").get_by_role("combobox").fill(name)
    page.keyboard.press("Enter")
    expect(page.locator(".slip.picked header")).to_have_text(name)


def wire_to(page: Page, words: str) -> None:
    """Wire the chosen slip's first output to an input, by keys."""
    page.get_by_role("application").focus()
    page.keyboard.press("l")
    page.get_by_label("Wire it to").get_by_role("combobox").fill(words)
    page.keyboard.press("Enter")
    page.locator(".finder").wait_for(state="detached")


def choose(page: Page, slip: str) -> None:
    page.locator(".slip header", has_text=re.compile(f"^{slip}$")).first.click()


def set_on_node(page: Page, control: str, value: str) -> None:
    field = page.locator(f'.settings [data-control="{control}"] input.field').first
    field.fill(value)
    field.press("Enter")


def test_sharpen_wired_from_an_empty_layer(page: Page, address: str) -> None:
    """The same nodes as the shipped layer's, found and wired by keys, give its picture within 1 of 255."""
    shipped = {"id": "own", "name": "Sharpen", "kind": "sharpen", "values": {"strength": 0.6, "radius": 3.0}}
    new_effect(page, address, [shipped])
    expected = pixels(page)
    assert np.abs(expected - bare()).max() > 20
    new_effect(page, address)
    page.keyboard.press("a")
    page.get_by_label("Find a layer").fill("empty recipe")
    page.keyboard.press("Enter")
    page.keyboard.press("3")
    page.locator(".slip").first.wait_for()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)
    place(page, "Blur")
    page.locator('.settings [data-control="Quality"]').get_by_text("Exact").click()
    set_on_node(page, "Amount", "3")
    choose(page, "Below")
    wire_to(page, "Blur: Picture")
    place(page, "Subtract")
    choose(page, "Below")
    wire_to(page, "Subtract: A")
    choose(page, "Blur")
    wire_to(page, "Subtract: B")
    place(page, "Add")
    set_on_node(page, "B", "0.5")
    choose(page, "Subtract")
    wire_to(page, "Add: A")
    place(page, "Blend")
    page.locator('.settings [data-control="Mode"] select').select_option("overlay")
    set_on_node(page, "Opacity", "60")
    choose(page, "Add")
    wire_to(page, "Blend: Layer")
    choose(page, "Blend")
    wire_to(page, "The layer")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - expected).max() <= 1)


def test_a_wire_that_does_not_fit_says_so_and_is_mended(page: Page, address: str) -> None:
    nodes = [
        BELOW,
        {"id": "edge", "kind": "sobel", "at": [320, 60]},
        {"id": "ink", "kind": "colour", "at": [40, 300]},
        {"id": "shown", "kind": "with-opacity", "at": [620, 60]},
    ]
    wires = ["below.out > edge.picture", "edge.strength > shown.opacity"]
    open_recipe(page, address, recipe(nodes, wires, "shown.out"))
    settle(page)
    good = pixels(page)
    source = page.locator('[data-id="ink"] .vue-flow__handle-right')
    source.drag_to(page.locator('[data-id="edge"] [data-handleid="thickness"]'))
    fault = page.locator('[data-id="edge"] .fault')
    expect(fault).to_contain_text("'Thickness' takes")
    expect(fault).to_contain_text("this wire brings colour")
    expect(page.locator(".wire.wrong")).to_have_count(1)
    expect(page.get_by_text("The last good picture keeps running")).to_be_visible()
    until(page, lambda: np.abs(pixels(page) - good).max() <= 1)
    choose(page, "Sobel")
    page.locator(".settings .line", has_text="Thickness").get_by_text("Unwire").click()
    expect(fault).to_have_count(0)
    settle(page)
    until(page, lambda: np.abs(pixels(page) - good).max() <= 1)


def test_nodes_are_packed_opened_nested_and_reused(page: Page, address: str) -> None:
    nodes = [
        BELOW,
        {"id": "half", "kind": "multiply", "set": {"b": 0.5}, "at": [300, 60]},
        {"id": "more", "kind": "add", "set": {"b": 0.25}, "at": [520, 60]},
    ]
    effect = open_recipe(page, address, recipe(nodes, ["below.out > half.a", "half.out > more.a"], "more.out"))
    settle(page)
    expected = pixels(page)
    choose(page, "Multiply")
    page.locator(".slip header", has_text="Add").first.click(modifiers=["Shift"])
    page.get_by_role("button", name="Pack").click()
    group = page.locator(".slip.group")
    group.wait_for()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - expected).max() == 0)
    # Its inside opens, and a change there shows.
    group.get_by_text("Open").click()
    expect(page.get_by_label("Groups")).to_contain_text("Group")
    choose(page, "Add")
    before = len(page.request.get(f"{address}/api/effects/{effect}/history").json())
    rail = page.locator('.settings [data-control="B"] .line').bounding_box()
    assert rail
    page.mouse.move(rail["x"] + 2, rail["y"] + 1)
    page.mouse.down()
    page.mouse.move(rail["x"] + rail["width"] * 0.78, rail["y"] + 1, steps=6)
    page.mouse.up()
    settle(page)
    until(page, lambda: pixels(page).mean() > expected.mean() + 20)
    # The whole drag is one step of the history.
    assert len(page.request.get(f"{address}/api/effects/{effect}/history").json()) == before + 1
    page.get_by_role("application").focus()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(page.get_by_label("Groups")).to_have_count(0)
    # Packed once more, it lies in a group of its own; pasted, it stands twice and is one definition.
    choose(page, "Group")
    page.keyboard.press("p")
    settle(page)
    held = kept(page, address, effect)["recipe"]
    outer = next(iter(held["groups"].values()))
    while "half" not in [n["id"] for n in outer["nodes"]]:
        outer = next(iter(outer["groups"].values()))
    choose(page, "Group")
    page.keyboard.press("Control+c")
    page.keyboard.press("Control+v")
    expect(page.locator(".slip.group")).to_have_count(2)
    held = kept(page, address, effect)["recipe"]
    kinds = [n["kind"] for n in held["nodes"] if n["kind"].startswith("group:")]
    assert len(kinds) == 2
    assert len(set(kinds)) == 1
    read_recipe(held)
    # In another effect the copy brings its inside along.
    other = open_recipe(page, address, recipe([BELOW], [], "below.out"))
    page.get_by_role("application").focus()
    page.keyboard.press("Control+v")
    expect(page.locator(".slip.group")).to_have_count(1)
    assert kept(page, address, other)["recipe"]["groups"]


def test_undone_to_the_start_and_redone_to_the_end(page: Page, address: str) -> None:
    effect = open_recipe(page, address, recipe([BELOW], [], "below.out"))
    place(page, "Invert")
    choose(page, "Below")
    wire_to(page, "Invert: Colour")
    choose(page, "Invert")
    wire_to(page, "The layer")
    place(page, "Number")
    page.keyboard.press("Delete")
    page.keyboard.press("t")
    settle(page)
    end, document = pixels(page), kept(page, address, effect)
    assert np.abs(end - (255 - bare())).max() <= 1
    undo, redo = page.get_by_role("button", name="Undo"), page.get_by_role("button", name="Redo")
    steps = 0
    while undo.is_enabled() and steps < 30:
        undo.click()
        settle(page)
        steps += 1
    assert steps >= 6
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)
    while redo.is_enabled():
        redo.click()
        settle(page)
    until(page, lambda: np.abs(pixels(page) - end).max() == 0)
    assert kept(page, address, effect) == document


def test_an_input_becomes_a_control_on_the_desk(page: Page, address: str) -> None:
    nodes = [BELOW, {"id": "half", "kind": "multiply", "set": {"b": 1.0}, "at": [300, 60]}]
    open_recipe(page, address, recipe(nodes, ["below.out > half.a"], "half.out"))
    choose(page, "Multiply")
    page.locator(".settings .line", has=page.locator('[data-control="B"]')).get_by_text("Make it a control").click()
    page.get_by_role("application").focus()
    page.keyboard.press("1")
    field = page.locator('[data-control="B"] input.field')
    field.fill("0.5")
    field.press("Enter")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare() * 0.5).max() <= 1)


def test_a_shipped_layers_control_goes_with_its_node(page: Page, address: str) -> None:
    """What was set on the control, and what drives it, must not keep the edit from being saved."""
    drives = {"radius": {"kind": "wander", "values": {"low": 1.0, "high": 4.0}}}
    shipped = {"id": "own", "name": "Sharpen", "kind": "sharpen", "values": {"strength": 0.6, "radius": 3.0}, "drives": drives}
    effect = new_effect(page, address, [shipped])
    page.keyboard.press("3")
    choose(page, "Blur")
    page.keyboard.press("Delete")
    expect(page.locator('[data-id="soft"]')).to_have_count(0)
    held = kept(page, address, effect)
    assert (held["kind"], held["values"], held["drives"]) == ("own", {"strength": 0.6}, {})
    assert "soft" not in [node["id"] for node in held["recipe"]["nodes"]]


def test_a_node_is_put_into_a_wire_and_slips_are_moved_by_keys(page: Page, address: str) -> None:
    nodes = [BELOW, {"id": "twice", "kind": "multiply", "set": {"b": 0.8}, "at": [420, 60]}]
    effect = open_recipe(page, address, recipe(nodes, ["below.out > twice.a"], "twice.out"))
    page.locator(".vue-flow__edge .reach").first.click(force=True)
    page.keyboard.press("f")
    page.get_by_label("Put into the wire").get_by_role("combobox").fill("Invert")
    page.keyboard.press("Enter")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - (255 - bare()) * 0.8).max() <= 1)
    choose(page, "Multiply")
    page.keyboard.press("Shift+ArrowDown")
    assert kept(page, address, effect)["recipe"]["nodes"][1]["at"] == [420, 80]
    page.keyboard.press("ArrowLeft")
    expect(page.locator(".slip.picked header")).to_have_text("Invert")


def test_every_slip_shows_what_it_gives_and_a_shipped_recipe_opens(page: Page, address: str) -> None:
    new_effect(page, address, [{"id": "own", "name": "Outline", "kind": "outline"}])
    page.keyboard.press("3")
    page.locator(".slip").first.wait_for()
    expect(page.locator('[data-id="ink"] .now')).to_contain_text("#ffd27a")
    edges = '[data-id="line"] canvas'

    def drawn() -> bool:
        data = page.locator(edges).evaluate(
            "c => [...c.getContext('2d').getImageData(0, 0, 45, 80).data].filter((_, n) => n % 4 === 0)"
        )
        return max(data) > 200 and np.mean(data) < 128

    until(page, drawn)
    # The first change makes it the layer's own; the picture stays.
    settle(page)
    before = pixels(page)
    choose(page, "Sobel")
    page.locator(".settings textarea").fill("finds edges")
    page.locator(".settings textarea").blur()
    expect(page.locator('[data-id="edges"] .comment')).to_have_text("finds edges")
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), before))  # be it by steps or by machine code


def test_a_recipe_is_read_from_a_file_and_saved(page: Page, address: str, tmp_path: Any) -> None:
    open_recipe(
        page,
        address,
        recipe([BELOW, {"id": "turned", "kind": "invert", "at": [300, 60]}], ["below.out > turned.colour"], "turned.out"),
    )
    for form, words in (("JSON", '"invert"'), ("MaterialX", "<materialx")):
        page.get_by_role("button", name="File").click()
        with page.expect_download() as waiting:
            pick(page, f"Save as {form}")
        assert words in (waiting.value.path().read_text())
        if form == "JSON":
            waiting.value.save_as(tmp_path / "turned.recipe.json")
    new_effect(page, address, [{**OWN, "recipe": recipe([BELOW], [], "below.out")}])
    page.keyboard.press("3")
    page.locator(".slip").first.wait_for()
    page.locator('.recipe input[type="file"]').set_input_files(tmp_path / "turned.recipe.json")
    expect(page.locator(".slip")).to_have_count(3)
    settle(page)
    until(page, lambda: np.abs(pixels(page) - (255 - bare())).max() <= 1)
    bad = tmp_path / "torn.recipe.json"
    bad.write_text('{"format": "sun-glaze/recipe", "nodes": [{"id": 1}]}')
    page.locator('.recipe input[type="file"]').set_input_files(bad)
    expect(page.get_by_text("torn.recipe.json: nodes.0")).to_be_visible()


def test_two_hundred_nodes_stay_in_hand(page: Page, address: str) -> None:
    """A chain of 200 nodes opens, and a drag across the ground keeps drawing frames of the page."""
    nodes = [
        BELOW,
        *(
            {"id": f"n{n}", "kind": "add", "set": {"b": 0.001}, "at": [40 + 150 * (n % 20), 260 + 150 * (n // 20)]}
            for n in range(199)
        ),
    ]
    wires = ["below.out > n0.a", *(f"n{n}.out > n{n + 1}.a" for n in range(198))]
    open_recipe(page, address, recipe(nodes, wires, "n198.out"))
    page.keyboard.press("0")
    expect(page.locator('[data-id="n10"] header')).to_be_in_viewport()
    expect(page.locator('[data-id="n10"] header')).to_have_text("Add")
    settle(page)
    lighter = np.minimum(bare() + round(0.199 * 255), 255)
    until(page, lambda: np.abs(pixels(page) - lighter).max() <= 2)


def test_an_empty_recipe_opens_on_itself_and_each_layer_on_what_was_opened_there(page: Page, address: str) -> None:
    fill = {"id": "f", "name": "Fill", "kind": "fill"}
    new_effect(page, address, [fill, {"id": "g", "name": "Grain", "kind": "film-grain"}])
    page.keyboard.press("a")
    page.get_by_label("Find a layer").fill("empty recipe")
    page.keyboard.press("Enter")
    expect(page.get_by_role("tab", name="Recipe")).to_have_attribute("aria-selected", "true")
    page.locator('[data-layer="f"] .tile-face').click()
    expect(page.get_by_role("tab", name="Controls")).to_have_attribute("aria-selected", "true")
    page.keyboard.press("2")
    page.locator('[data-layer="g"] .tile-face').click()
    expect(page.get_by_role("tab", name="Controls")).to_have_attribute("aria-selected", "true")
    page.locator('[data-layer="f"] .tile-face').click()
    expect(page.get_by_role("tab", name="Mask")).to_have_attribute("aria-selected", "true")
