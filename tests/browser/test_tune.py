"""Every hit of a track put in key."""

import re

from playwright.sync_api import Page, expect

from tests.browser.serving import Server, mend, saved, settled


def test_all_drums_are_tuned_after_a_look_at_what_would_change(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/tune")
    settled(page)
    rows = page.get_by_role("list", name="Hits").get_by_role("listitem")
    expect(rows).to_have_count(4)
    expect(page.locator(".tune-head")).to_contain_text("2 hits are out of tune")
    expect(rows.nth(3)).to_contain_text("deliberately free")
    page.get_by_role("button", name="Tune all…").click()
    plan = page.get_by_role("group", name="What tuning all would change")
    expect(plan.get_by_role("listitem")).to_have_count(2)
    page.get_by_role("button", name="Hear the Shell tuned").click()
    page.wait_for_function("() => window.heard && window.heard() > 0.01")
    page.get_by_role("button", name="Take all").click()
    expect(page.locator(".tune-head")).to_contain_text("Every hit is where it aims")
    for row in (1, 2):
        expect(rows.nth(row)).to_contain_text("✓ in tune")
    page.keyboard.press("Control+z")
    expect(page.locator(".tune-head")).to_contain_text("2 hits are out of tune")


def test_a_kick_that_clashes_is_shortened_in_the_section_at_hand_alone(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/3/tune")
    settled(page)
    grating = page.locator(".finding").filter(has_text="semitones above the root")
    expect(grating).to_have_count(1)
    section = page.get_by_role("combobox", name="Section")
    section.select_option("new section…")
    expect(section.locator("option:checked")).to_contain_text("break")
    settled(page)
    mend(page, grating, re.compile("^Shorten the kick"))
    page.get_by_role("button", name="Take it").click()
    expect(grating).to_have_count(0)
    saved(page)
    section.select_option("drop · main")
    settled(page)
    expect(grating).to_have_count(1)
    page.get_by_role("list", name="Hits").get_by_role("button", name="Kick", exact=True).press("Enter")
    page.get_by_role("checkbox", name="Follow the chords").check()
    expect(grating).to_have_count(0)


def test_by_keyboard_one_drum_aims_at_the_fifth_and_is_tuned_to_it(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/tune")
    settled(page)
    page.get_by_role("list", name="Hits").get_by_role("button", name="Low tom", exact=True).focus()
    page.keyboard.press("Enter")
    candidates = page.get_by_role("region", name="Where the Low tom can go")
    expect(candidates.locator(".move").first).to_contain_text("G2")
    aim = page.get_by_role("combobox", name="Aim of the Low tom")
    aim.select_option("tonic")
    expect(candidates.locator(".move").first).to_contain_text("tonic")
    aim.select_option("fifth")
    expect(candidates.locator(".move").first).to_contain_text("G2")
    expect(candidates.locator(".move").nth(1)).to_contain_text("not aimed at")
    candidates.get_by_title("Hear the Low tom over a steady C").press("Enter")
    page.wait_for_function("() => window.heard && window.heard() > 0.01")
    page.get_by_role("button", name="Tune to G2", exact=True).press("Enter")
    row = page.get_by_role("list", name="Hits").get_by_role("listitem").nth(2)
    expect(row).to_contain_text("✓ in tune")
    expect(row.locator("b")).to_have_text("G2")


def test_an_ear_overrules_what_is_measured(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/tune")
    settled(page)
    kick = page.get_by_role("list", name="Hits").get_by_role("listitem").first
    expect(kick).to_contain_text("Hz")
    ear = page.get_by_role("region", name="What your ear says of the Kick")
    typed = ear.get_by_label("Note of the Kick, typed")
    typed.fill("loud")
    typed.press("Enter")
    expect(ear.get_by_role("alert")).to_contain_text("is no pitch")
    # Tapping a note sounds it under the hit, and puts it where it can be taken.
    ear.get_by_role("button", name="A1", exact=True).press("Enter")
    expect(typed).to_have_value("A1")
    typed.press("Enter")
    expect(kick).to_contain_text("by your ear")
    expect(kick).to_contain_text("55.00 Hz")
    saved(page)
    page.reload()
    settled(page)
    expect(kick).to_contain_text("by your ear")
    ear.get_by_role("button", name="As measured").click()
    expect(kick).not_to_contain_text("by your ear")
