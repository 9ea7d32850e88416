"""Signing in as people do: with an authenticator, a passkey, the company's own sign-in; and an administrator's care."""

import re
import time

import pytest
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value
from playwright.sync_api import Page, expect

from tests.web.conftest import Demo, sign_in

pytestmark = pytest.mark.browser


def code_of(secret: str, step: int = 0) -> str:
    return format_hotp_value(hotp_value(secret, int(time.time()) // 30 + step))


def here(demo: Demo) -> str:
    """The demo by a name: a passkey is bound to one, and an address is none."""
    return demo.url.replace("127.0.0.1", "localhost")


def name_and_password(page: Page, name: str, password: str = "") -> None:
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password", exact=True).fill(password or f"low-water-{name}")
    page.get_by_role("button", name="Sign in", exact=True).click()


def removed(page: Page, at: str, factor: str, password: str) -> None:
    """Remove a factor again, which asks for the password: others sign in as this person after us."""
    page.goto(f"{at}/settings")
    page.get_by_role("row").filter(has_text=factor).get_by_role("button", name="Remove").click()
    prove = page.get_by_role("dialog", name="It is you?")
    prove.get_by_label("Password").fill(password)
    prove.get_by_role("button", name="Go on").click()
    expect(page.get_by_text("Only a password so far.")).to_be_visible()


def test_an_authenticator_is_added_and_asked_for(page: Page) -> None:
    sign_in(page, "wren", "/settings")
    page.get_by_role("button", name="Add an authenticator").click()
    dialog = page.get_by_role("dialog", name="Add an authenticator")
    secret = dialog.locator("code").inner_text()
    dialog.get_by_label("Code").fill("000000")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_text("That code is not right.")).to_be_visible()
    dialog.get_by_label("Code").fill(code_of(secret))
    dialog.get_by_role("button", name="Save").click()
    page.get_by_role("dialog", name="It is you?").get_by_label("Password").fill("low-water-wren")
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_role("cell", name="Authenticator", exact=True)).to_be_visible()
    page.get_by_role("button", name="Show").click()
    expect(page.get_by_role("dialog", name="Recovery codes").get_by_text("10 codes")).to_be_visible()
    codes = page.get_by_role("dialog", name="Recovery codes").locator("pre").inner_text().split()
    assert len(codes) == 10
    page.get_by_role("dialog", name="Recovery codes").get_by_role("button", name="Close").first.click()
    page.get_by_role("button", name=re.compile("menu of Wren")).click()
    page.get_by_role("button", name="Sign out", exact=True).click()
    page.wait_for_url("**/sign-in*")
    name_and_password(page, "wren")
    expect(page.get_by_text("Now the second factor")).to_be_visible()
    page.get_by_label("Code").fill("123456")
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_text("That code is not right.")).to_be_visible()
    page.get_by_label("Code").fill(codes[0])
    page.get_by_role("button", name="Go on").click()
    page.wait_for_url("**/today*")
    removed(page, page.url.split("/today")[0], "Authenticator", "low-water-wren")


def test_a_passkey_is_made_and_signs_in_without_the_password(page: Page, demo: Demo) -> None:
    session = page.context.new_cdp_session(page)
    session.send("WebAuthn.enable")
    options = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True,
               "isUserVerified": True, "automaticPresenceSimulation": True}  # fmt: skip
    session.send("WebAuthn.addVirtualAuthenticator", {"options": options})
    page.goto(f"{here(demo)}/sign-in")
    name_and_password(page, "oona")
    page.wait_for_url("**/today*")
    page.goto(f"{here(demo)}/settings")
    page.get_by_role("button", name="Add a passkey").click()
    page.get_by_role("dialog", name="Add a passkey").get_by_label("Name").fill("office notebook")
    page.get_by_role("button", name="Make it").click()
    prove = page.get_by_role("dialog", name="It is you?")
    prove.get_by_label("Password").fill("low-water-oona")
    prove.get_by_role("button", name="Go on").click()
    expect(page.get_by_text("office notebook")).to_be_visible()
    page.get_by_role("button", name=re.compile("menu of Oona")).click()
    page.get_by_role("button", name="Sign out", exact=True).click()
    page.wait_for_url("**/sign-in*")
    page.get_by_role("button", name="Use a passkey").click()
    page.wait_for_url("**/today*")
    expect(page.get_by_role("button", name=re.compile("menu of Oona"))).to_be_visible()
    removed(page, here(demo), "office notebook", "low-water-oona")


def test_the_companys_own_sign_in_lets_in_who_has_an_account(page: Page) -> None:
    page.goto("/sign-in")
    page.get_by_role("button", name="Sign in by Harbour sign-in").click()
    page.get_by_role("button", name="Jory Thane").click()
    expect(page.get_by_text("There is no account here for you")).to_be_visible()
    page.get_by_role("button", name="Sign in by Harbour sign-in").click()
    page.get_by_role("button", name="Piet Harrowgate").click()
    page.wait_for_url("**/today*")
    expect(page.get_by_role("button", name=re.compile("menu of Piet"))).to_be_visible()


def test_an_administrator_makes_switches_off_and_sees_what_failed(page: Page) -> None:
    sign_in(page, "ines", "/settings")
    page.get_by_role("button", name="New account").click()
    dialog = page.get_by_role("dialog", name="New account")
    dialog.get_by_label("Signs in as").fill("fenna")
    dialog.get_by_label("Full name").fill("Fenna Ardley")
    dialog.get_by_label("Password", exact=True).fill("password1234")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_text("too common")).to_be_visible()
    dialog.get_by_label("Password", exact=True).fill("slack-tide-5678")
    dialog.get_by_role("button", name="Save").click()
    other = page.context.browser.new_context(base_url=page.url.split("/settings")[0]).new_page()  # type: ignore[union-attr]
    other.goto("/sign-in")
    name_and_password(other, "fenna", "not it at all")
    expect(other.get_by_text("The name or the password is not right.")).to_be_visible()
    name_and_password(other, "fenna", "slack-tide-5678")
    other.wait_for_url("**/today*")
    page.reload()
    expect(page.get_by_role("region", name="Failed sign-ins").get_by_text("fenna")).to_be_visible()
    page.get_by_role("button", name="Fenna Ardley").click()
    account = page.get_by_role("dialog", name="Fenna Ardley")
    expect(account.get_by_text("127.0.0.1, since")).to_be_visible()
    account.get_by_role("button", name="Switch off").click()
    expect(account.get_by_role("button", name="Switch on")).to_be_visible()
    other.reload()
    other.wait_for_url("**/sign-in*")
