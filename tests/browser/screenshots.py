"""``make screenshots``: one picture of each main view, from the demo data."""

from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.browser.running import ROOT, RunningServer, launch, read_notice

PICTURES = ROOT / "docs" / "screenshots"


def main() -> None:
    """Start a server of its own, walk through the views and keep their pictures."""
    PICTURES.mkdir(parents=True, exist_ok=True)
    server = RunningServer()
    try:
        with sync_playwright() as playwright:
            browser = launch(playwright)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(server.address)
            take(page, "safety-notice", lambda: page.get_by_text("I have read this").wait_for())
            read_notice(page)
            walk(page, server.address)
            browser.close()
    finally:
        server.close()


def walk(page: Page, address: str) -> None:
    """Every main view once, with something to see in it."""
    build = f"{address}builds/1"
    take(page, "builds", lambda: page.get_by_role("link", name="Saltmarsh Roadster").wait_for())

    page.goto(f"{build}/stock")
    page.get_by_role("combobox", name="New load").fill("Reversing lamp")
    page.get_by_role("form").get_by_label("Where").select_option(label="Tail, middle")
    page.get_by_role("form").get_by_label("Live from").select_option("run")
    take(page, "take-stock", lambda: page.get_by_text("Oilstone would fit").wait_for())

    page.goto(f"{build}/circuits/radiator-fan")
    fitted = page.get_by_role("button", name="What else changes?").first
    fitted.click()
    take(page, "circuits", lambda: page.get_by_text("also changes").wait_for())

    page.goto(f"{build}/bench")
    page.get_by_role("radio", name="run").click()
    page.get_by_role("radio", name="head").click()
    page.get_by_role("radio", name="main").click()
    page.get_by_role("button", name="Hold Brake pedal").click()
    page.get_by_role("button", name="Main beam right").click()
    take(page, "bench", lambda: page.get_by_text("11.9").first.wait_for())
    page.get_by_role("button", name="Dark").click()
    take(page, "bench-dark", lambda: page.get_by_role("button", name="Paper").wait_for())
    page.goto(f"{build}/circuits/main-beam-left")
    take(page, "circuits-live-dark", lambda: page.get_by_text("thick: live").wait_for())
    page.get_by_role("button", name="Paper").click()

    page.set_viewport_size({"width": 768, "height": 1024})
    page.goto(f"{build}/power-up/main-beam-left")
    page.get_by_label("Volts at Main beam left").fill("12.0")
    page.get_by_label("Amps at Main beam left").fill("4.6")
    page.get_by_label("Volts at Main beam right").fill("11.1")
    take(page, "power-up", lambda: page.get_by_text("outside its").wait_for())
    page.goto(f"{build}/bench")
    take(page, "bench-tablet", lambda: page.get_by_text("11.9").first.wait_for())


def take(page: Page, name: str, wait: object) -> None:
    """Wait until the view shows what it should, let it settle, and keep its picture."""
    if callable(wait):
        wait()
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(400)
    page.screenshot(path=Path(PICTURES / f"{name}.png"))


if __name__ == "__main__":
    main()
