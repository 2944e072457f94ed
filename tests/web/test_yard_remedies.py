"""Dead track of a large yard of power-routing turnouts: progress, a way to stop, what was found is kept, and a mend."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.track_plans import ladder
from tests.web.test_story import bench as bench
from tests.web.test_story import settled


def test_remedies_of_a_large_yard_are_told_as_found_and_can_be_stopped(bench: Page, base_url: str) -> None:
    page = bench
    yard = ladder(10, both_ends=True).plain().model_dump(mode="json")
    made = page.request.post(f"{base_url}/api/layouts", data=yard)
    assert made.ok, made.text()
    page.goto(f"{base_url}/?layout={made.json()['id']}")
    page.get_by_role("button", name=re.compile("^Track")).first.click()
    expect(page.get_by_text(re.compile("Looking for remedies|Trying every setting"))).to_be_visible()
    expect(page.get_by_test_id("dead-track").get_by_role("listitem").first).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Stop", exact=True).click()
    told = page.get_by_text(re.compile(r"Stopped after \d+ of \d+"))
    expect(told).to_be_visible()
    kept = page.get_by_test_id("dead-track").get_by_role("listitem").count()
    assert kept >= 1
    page.get_by_role("button", name="Look again").click()
    expect(told).to_have_count(0)
    expect(page.get_by_text(re.compile("Looking for remedies"))).to_have_count(0, timeout=60_000)
    page.get_by_test_id("dead-track").get_by_role("button", name="Mend it…").first.click()
    expect(page.get_by_role("dialog")).to_be_visible()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Make this change")).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    settled(page)
