"""Sections: one of its own, what differs there, the arrangement, and all of it after a restart."""

import io
import zipfile

import soundfile
from playwright.sync_api import Page, expect

from tests.browser.serving import Server, go, saved, settled


def test_a_break_has_its_own_short_kick_and_the_drop_stays_as_it_was(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    section = page.get_by_role("combobox", name="Section")
    section.select_option("new section…")
    expect(page.locator(".notice")).to_contain_text("intro begins as it is here")
    expect(section.locator("option:checked")).to_contain_text("intro")
    settled(page)
    length = page.get_by_label("Length, typed, in ms", exact=True)
    before = length.input_value()
    length.fill("150")
    length.press("Enter")
    saved(page)
    own = page.get_by_role("group", name="What intro has of its own")
    expect(own).to_contain_text("sound")
    expect(section.locator("option:checked")).to_contain_text("1 of its own")

    # A stroke less in the intro only; the drop has kept its own, and is what it was.
    go(page, "Line")
    stave = page.get_by_role("group", name="Bar 1 of the pattern")
    fourth = stave.get_by_role("button", name="Kick, place 13")
    expect(fourth).to_have_attribute("aria-pressed", "true")
    fourth.press("Enter")
    expect(stave.get_by_role("button", name="Kick, place 13")).to_have_attribute("aria-pressed", "false")
    saved(page)
    section.select_option("drop · main")
    expect(section.locator("option:checked")).to_contain_text("drop")
    expect(stave.get_by_role("button", name="Kick, place 13")).to_have_attribute("aria-pressed", "true")
    go(page, "Hits")
    expect(length).to_have_value(before)

    # What main changes reaches the intro, and one difference follows main again.
    section.select_option("intro · 2 of its own")
    settled(page)
    expect(length).to_have_value("150")
    own.get_by_role("button", name="Let the sound of Kick follow drop again").press("Enter")
    expect(length).to_have_value(before)
    expect(own).to_contain_text("pattern")
    page.keyboard.press("Control+z")
    expect(length).to_have_value("150")


def test_sections_are_named_arranged_seen_and_handed_over(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/3/brief")
    settled(page)
    page.locator("label[for=brief-sections]").click()
    table = page.get_by_role("region", name="Sections")
    expect(table.get_by_role("row")).to_have_count(3)
    name = table.get_by_label("Name of the section intro")
    name.fill("DJ intro")
    name.press("Enter")
    expect(table.get_by_label("Name of the section DJ intro")).to_be_visible()
    order = table.get_by_role("list", name="Arrangement")
    expect(order.get_by_role("listitem")).to_have_count(2)
    table.get_by_label("Add to the arrangement").select_option("drop")
    expect(order.get_by_role("listitem")).to_have_count(3)
    bars = order.get_by_label("Bars of drop, place 3")
    bars.fill("4")
    expect(table.get_by_role("img", name="Low end of 28 bars")).to_be_visible()
    # Each section is judged for itself.
    expect(table.get_by_role("row").nth(2).get_by_role("cell").nth(2)).not_to_have_text("–")
    table.get_by_role("button", name="Go to DJ intro").press("Enter")
    section = page.get_by_role("combobox", name="Section")
    expect(section.locator("option:checked")).to_contain_text("DJ intro")
    saved(page)
    go(page, "Hand over")
    expect(page.get_by_role("button", name="All sections")).to_be_visible()
    expect(page.locator(".handover table")).to_contain_text("stonefruit-dj-intro_kick")
    straight = page.get_by_role("button", name="The arrangement")
    with page.expect_download(timeout=120_000) as begun:
        straight.press("Enter")
    expect(straight).to_be_focused()
    with zipfile.ZipFile(begun.value.path()) as archive:
        assert "stonefruit_arrangement_mix_140bpm.wav" in archive.namelist()
        mix = soundfile.info(io.BytesIO(archive.read("stonefruit_arrangement_mix_140bpm.wav")))
    assert 28 * 240 / 140 <= mix.duration < 28 * 240 / 140 + 8
    page.reload()
    settled(page)
    page.get_by_role("navigation", name="Steps").get_by_role("link", name="Brief").click()
    page.locator("label[for=brief-sections]").click()
    expect(order.get_by_role("listitem")).to_have_count(3)
