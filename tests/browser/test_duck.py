"""Duckings beside the one of kick and bass, and the curve as a compressor makes it."""

import re

import numpy as np
from playwright.sync_api import FilePayload, Page, expect

from tests.browser.serving import Server, go, saved, settled, tab
from tests.files_made import written
from tests.signals import ring, sine


def test_a_pad_is_ducked_in_eighths_and_heard_and_taken_away_again(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/duck")
    settled(page)
    page.locator("label[for=duck-others]").click()
    rows = page.get_by_role("list", name="Duckings").get_by_role("listitem")
    expect(rows).to_have_count(2)
    page.get_by_role("button", name="Add a held chord").press("Enter")
    add = page.get_by_role("button", name="Add a ducking")
    expect(add).to_be_enabled()
    add.press("Enter")
    expect(rows).to_have_count(3)
    # The part that nothing ducks yet, by the kick.
    starts, reach = (page.get_by_role("group", name=name) for name in ("Started by", "Turns down"))
    expect(reach.get_by_role("button", name="Pad")).to_have_attribute("aria-pressed", "true")
    page.get_by_label("margin").select_option("15 dB")
    solve = page.get_by_role("button", name="Solve", exact=True)
    solve.press("Enter")
    expect(page.get_by_text("Solved: it gives up")).to_be_visible()
    page.get_by_label("Every").select_option("1/8")
    starts.get_by_role("button", name="Kick").press("Enter")
    expect(rows.nth(2)).to_contain_text("4.2 a second")
    expect(solve).to_be_disabled()
    page.get_by_label("Every").select_option("1/16")
    expect(rows.nth(2)).to_contain_text("8.3 a second")
    depth = page.get_by_label("Depth, typed, in dB")
    depth.fill("12")
    depth.press("Enter")
    saved(page)
    page.keyboard.press("h")
    expect(page.locator("#hear-all")).to_be_checked()
    page.get_by_role("button", name="Play").press("Enter")
    page.wait_for_function("() => window.heard && window.heard() > 0.01")
    rows.nth(2).get_by_role("button", name="Remove the ducking of Pad by 1/16").press("Enter")
    expect(rows).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(rows).to_have_count(3)


def test_a_group_is_heard_instead_of_its_members_and_is_offered_only_what_can_be(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/2/duck")
    settled(page)
    page.locator("label[for=duck-others]").click()
    page.get_by_role("button", name="Add a copy or group").press("Enter")
    group = page.get_by_role("group", name="Stem Group", exact=True)
    group.get_by_role("button", name="chain and place").press("Enter")
    taken = group.get_by_label("What is taken of Shell")
    taken.select_option("instead")
    group.get_by_label("What is taken of Hat").select_option("instead")
    saved(page)
    group.get_by_label("Hat gain", exact=True).focus()
    page.keyboard.press("ArrowLeft")
    expect(group.get_by_label("Hat gain, typed")).to_have_value("\N{MINUS SIGN}0.1")
    # A line is judged by itself, and nothing is made from itself.
    expect(group.get_by_label("What is taken of bass").get_by_role("option")).to_have_text(
        ["nothing", "dry", "heard"]
    )
    expect(group.get_by_label("What is taken of Group")).to_have_count(0)
    page.get_by_role("button", name="Add a copy or group").press("Enter")
    copy = page.get_by_role("group", name="Stem Group 2")
    expect(group.get_by_label("What is taken of Group 2")).to_be_visible()
    copy.get_by_role("button", name="chain and place").press("Enter")
    expect(copy.get_by_label("What is taken of Hat").get_by_role("option")).to_have_text(
        ["nothing", "dry", "heard"]
    )
    copy.get_by_label("What is taken of Group").select_option("heard")
    saved(page)
    page.keyboard.press("h")
    page.get_by_role("button", name="Play").press("Enter")
    page.wait_for_function("() => window.heard && window.heard() > 0.01")


def test_the_curve_is_solved_as_a_compressor_and_goes_stale_when_it_changes(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.get_by_role("button", name="Solve from kick and bass").press("Enter")
    saved(page)
    page.get_by_role("button", name="As a compressor").press("Enter")
    held = page.get_by_role("group", name="With a hold")
    expect(held).to_contain_text("dB RMS off the curve")
    expect(held).to_contain_text("Threshold")
    expect(page.get_by_role("group", name="Without a hold")).to_contain_text("Ratio")
    release = page.get_by_label("Release, typed, in ms")
    release.fill("150")
    release.press("Enter")
    expect(page.locator(".as-compressor")).to_contain_text("solve again")


def test_a_curve_is_drawn_bent_snapped_kept_and_used_in_another_track(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.get_by_role("button", name="Draw the curve").press("Enter")
    points = page.get_by_role("slider", name="of the curve")
    expect(points).to_have_count(5)
    expect(page.get_by_label("Release, typed, in ms")).to_have_count(0)
    page.get_by_label("Snap").select_option("1/16")
    last = page.get_by_role("slider", name="Point 5 of the curve")
    last.press("ArrowRight")
    # A sixteenth at 132 BPM is 113.6 ms.
    expect(last).to_have_attribute("aria-valuetext", "227.3 ms, 0.0 dB")
    expect(page.locator(".values").nth(1)).to_contain_text("123 ms")
    bend = page.get_by_role("slider", name="Bend after point 4")
    before = bend.get_attribute("aria-valuetext")
    bend.press("ArrowDown")
    expect(bend).not_to_have_attribute("aria-valuetext", str(before))
    page.get_by_role("button", name="Add a point").press("Enter")
    expect(points).to_have_count(6)
    third = page.get_by_role("slider", name="Point 4 of the curve")
    third.press("Delete")
    expect(points).to_have_count(5)
    box = page.get_by_label("Drawn curve").locator("svg").bounding_box()
    assert box is not None
    handle = page.get_by_role("slider", name="Point 4 of the curve").locator(".handle-reach").bounding_box()
    assert handle is not None
    page.get_by_label("Snap").select_option("free")
    old = page.get_by_role("slider", name="Point 4 of the curve").get_attribute("aria-valuetext")
    page.mouse.move(handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
    page.mouse.down()
    page.mouse.move(handle["x"] + handle["width"] / 2 + 6, box["y"] + box["height"] * 0.6, steps=4)
    page.mouse.up()
    moved = page.get_by_role("slider", name="Point 4 of the curve")
    expect(moved).not_to_have_attribute("aria-valuetext", str(old))
    # Tab leads past every point; which one is typed is chosen beside its numbers.
    page.get_by_label("Selected point").select_option("2")
    takes = page.get_by_label("Point takes, in dB")
    takes.fill("3")
    takes.press("Enter")
    expect(page.get_by_role("slider", name="Point 2 of the curve")).to_have_attribute(
        "aria-valuetext", re.compile(r"−3\.0 dB$")
    )
    page.get_by_label("Name of the shape").fill("Late swell")
    page.get_by_label("Name of the shape").press("Enter")
    expect(page.get_by_text("“Late swell” is kept")).to_be_visible()
    saved(page)
    page.goto(f"{demo.address}/tracks/2/duck")
    settled(page)
    page.get_by_role("button", name="Draw the curve").press("Enter")
    page.get_by_label("My shapes").select_option(label="Late swell")
    # The last point lay on an eighth, and does at 124.5 BPM too.
    last = page.get_by_role("slider", name="Point 5 of the curve")
    expect(last).to_have_attribute("aria-valuetext", "241.0 ms, 0.0 dB")
    page.get_by_role("button", name="Back to the dials").press("Enter")
    expect(page.get_by_label("Release, typed, in ms")).to_be_visible()


def test_a_stem_is_ducked_given_a_space_behind_it_and_starts_a_ducking_itself(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.locator("label[for=duck-others]").click()
    wide = np.stack([sine(261.6, 4, -18), sine(329.6, 4, -18)], axis=1)
    stem: FilePayload = {"name": "Slow pad.wav", "mimeType": "audio/wav", "buffer": written(wide)}
    page.get_by_label("Sound file for a stem").set_input_files(files=[stem])
    pad = page.get_by_role("group", name="Stem Slow pad")
    expect(pad).to_be_visible()
    saved(page)
    add = page.get_by_role("button", name="Add a ducking")
    expect(add).to_be_enabled()
    rows = page.get_by_role("list", name="Duckings").get_by_role("listitem")
    add.press("Enter")
    expect(rows).to_contain_text(["pumps"])
    before = rows.first.text_content()
    pad.get_by_role("button", name="chain and place").press("Enter")
    loop = page.get_by_role("group", name="Loop of Slow pad")
    loop.get_by_label("Chain or moves of the loop").select_option("behind the duckings")
    loop.get_by_label("Add a stage").select_option("space")
    level = loop.get_by_label("Level, typed, in dB")
    level.fill("-3")
    level.press("Enter")
    expect(loop.get_by_role("group", name="What the stage did")).to_contain_text("loudness")
    gain = loop.get_by_label("Gain, typed, in dB")
    gain.fill("-6")
    gain.press("Enter")
    expect(rows.first).to_have_text(str(before))
    # A second target with half of the depth; and the stem may start one in its turn.
    reach = page.get_by_role("group", name="Turns down")
    reach.get_by_role("button", name="Hat").press("Enter")
    share = page.get_by_label("Hat, typed")
    share.fill("0.5")
    share.press("Enter")
    expect(rows.first).to_contain_text("of Hat")
    expect(
        page.get_by_role("group", name="Started by").get_by_role("button", name="Slow pad")
    ).to_be_disabled()
    page.keyboard.press("m")
    expect(page.locator("#mono")).to_be_checked()
    pad.get_by_role("button", name="Remove the stem Slow pad").press("Enter")
    expect(rows.first).not_to_contain_text("Slow pad")
    page.keyboard.press("Control+z")
    expect(pad).to_be_visible()
    expect(rows.first).to_contain_text("Slow pad")
    page.locator("label[for=duck-kick]").click()
    expect(page.locator(".depth-heard")).to_contain_text("everything")


def test_the_kick_s_ducking_reaches_what_it_is_told_to(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/duck")
    settled(page)
    page.locator("label[for=duck-reach]").click()
    reach = page.get_by_role("group", name="Turns down")
    expect(reach.get_by_role("button", name="bass")).to_have_attribute("aria-pressed", "true")
    reach.get_by_role("button", name="mid").press("Enter")
    expect(reach.get_by_role("button", name="mid")).to_have_attribute("aria-pressed", "false")
    expect(reach.get_by_role("button", name="Kick")).to_be_disabled()
    saved(page)
    page.locator("label[for=duck-kick]").click()
    settled(page)
    row = page.locator(".depth-heard tr").filter(has_text="mid")
    # Its own ducking by the shell goes on.
    expect(row).to_contain_text("pumps")
    page.reload()
    settled(page)
    page.locator("label[for=duck-reach]").click()
    expect(reach.get_by_role("button", name="mid")).to_have_attribute("aria-pressed", "false")


def test_a_loop_is_fitted_silenced_ducked_to_an_aim_and_aligned(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.locator("label[for=duck-others]").click()
    strokes = np.tile(0.5 * ring(220.0, 90, 0.25), 8)
    loop: FilePayload = {"name": "Break.wav", "mimeType": "audio/wav", "buffer": written(strokes)}
    page.get_by_label("Sound file for a stem").set_input_files(files=[loop])
    expect(page.get_by_role("group", name="Stem Break")).to_be_visible()
    page.get_by_role("button", name="Add a ducking").press("Enter")
    ducking = page.get_by_role("region", name="Ducking of Break by Kick")
    ducking.get_by_label("Decibels heard").fill("4")
    ducking.get_by_label("Back on").select_option("1/16")
    ducking.get_by_role("button", name="Aim").press("Enter")
    expect(page.locator(".notices")).to_contain_text(
        re.compile(r"Break is heard going down by (3\.[5-9]|4\.[0-5]) dB")
    )
    saved(page)
    # In Hits the file is fitted to the tempo, with what it costs, and one sixteenth silenced in one move.
    go(page, "Hits")
    page.get_by_role("group", name="Parts of the track").get_by_role(
        "button", name="Break", exact=True
    ).click()
    page.get_by_role("combobox", name="Fit").select_option("by slices")
    expect(page.locator(".file-loop")).to_contain_text("Cut into 8 slices; the longest loses")
    # Cut into hits it goes on as it was, from strokes that can be moved; undone it is the file again.
    page.get_by_role("button", name="Cut into hits").press("Enter")
    expect(page.locator(".notices")).to_contain_text("Break is muted; now its slices are Break ")
    strip = page.get_by_role("group", name="Parts of the track")
    sliced = strip.get_by_role("button", name=re.compile("^Break [a-z]"))
    expect(sliced).to_have_count(1)
    saved(page)
    page.get_by_role("button", name="Undo").click()
    expect(sliced).to_have_count(0)
    page.get_by_role("combobox", name="Fit").select_option("by resampling")
    expect(page.locator(".file-loop")).to_contain_text("1.7 semitones higher")
    third = page.get_by_role("group", name="Silenced sixteenths of Break").get_by_role("button").nth(2)
    third.press("Enter")
    expect(third).to_have_attribute("aria-pressed", "true")
    # With what it has nothing in common it is not aligned, and that is said.
    page.get_by_label("Align with").select_option("Hat")
    expect(page.locator(".notices")).to_contain_text("nothing in common")
    saved(page)
    page.reload()
    settled(page)
    page.get_by_role("group", name="Parts of the track").get_by_role(
        "button", name="Break", exact=True
    ).click()
    expect(third).to_have_attribute("aria-pressed", "true")


def test_one_ducking_or_a_chain_is_heard_without_it_equally_loud(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/duck")
    settled(page)
    page.locator("label[for=duck-others]").click()
    page.get_by_role("button", name="Change the ducking of mid by Shell").click()
    without = page.get_by_role("button", name="hear without")
    without.click()
    bar = page.get_by_role("region", name="A against B")
    expect(bar).to_contain_text("B without ducking mid by Shell")
    expect(bar).to_contain_text("equally loud")
    expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    without.click()
    expect(bar).to_have_count(0)
    # Nothing of the track was changed by it.
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()

    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    page.get_by_role("button", name="Snare", exact=True).click()
    tab(page, "shape")
    without.click()
    expect(bar).to_contain_text("B without the chain of Snare")
    # B is what is seen, too: nothing is done to it.
    expect(page.get_by_text("Nothing is done to the hit yet")).to_be_visible()
    bar.get_by_role("button", name="A now").click()
    expect(page.get_by_role("button", name="bypass")).to_be_visible()
