"""The list as it is worked with: narrowed, taken, acted on; and what others do is seen at once."""

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


def names(page) -> list[str]:
    rows = [row for row in page.all("[role=row]") if row.get_attribute("id").startswith("item-")]
    return [row.find_elements(By.TAG_NAME, "b")[1].text for row in rows]


def test_the_address_holds_what_is_asked_for(page) -> None:
    page.key("/")
    page.one("#find").send_keys("bracket")
    page.until(lambda: names(page) == ["Gallery bracket"])
    assert "q=bracket" in page.driver.current_url
    page.driver.refresh()
    page.until(lambda: names(page) == ["Gallery bracket"])
    assert page.one("#find").get_attribute("value") == "bracket"
    page.row("Gallery bracket").click()
    page.one("[data-question=closed]")
    assert page.driver.title.startswith("Gallery bracket · ")
    page.driver.back()
    page.until(lambda: names(page) == ["Gallery bracket"])
    page.one("#find").clear()
    page.one("#find").send_keys("no such thing")
    page.reads("No item fits all that is asked for.")


def test_columns_sort_and_are_chosen(shop, page) -> None:
    page.press("Item")
    page.until(lambda: names(page) == sorted(names(page)) and len(names(page)) == len(shop.items))
    page.press("Item")
    page.until(lambda: names(page) == sorted(names(page), reverse=True))
    page.press("columns")
    page.until(lambda: [x for x in page.all("[role=menuitemcheckbox]") if "With" in x.text])
    next(x for x in page.all("[role=menuitemcheckbox]") if "With" in x.text).click()
    page.key(Keys.ESCAPE)
    page.until(lambda: any(one.text == "With" for one in page.all("[role=columnheader]")))
    page.driver.refresh()
    page.until(lambda: any(one.text == "With" for one in page.all("[role=columnheader]")))


def test_rows_are_taken_by_key_and_a_colleague_sees_what_became_of_them(page, colleague) -> None:
    colleague.press("mine")
    colleague.reads("No item fits all that is asked for.")
    page.key(" ")
    ActionChains(page.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN).key_up(
        Keys.SHIFT
    ).perform()
    page.reads("2 taken", "[aria-label='Taken items']")
    taken = names(page)[:2]
    page.key(Keys.SHIFT + "G")
    choice = page.one("[role=dialog] select")
    page.until(lambda: "Odd Lervik" in choice.text)
    choice.send_keys("Odd")
    page.button("Give", "[role=dialog]").click()
    page.reads("Done for 2 items")
    # nobody has to ask: it is pushed
    colleague.until(lambda: names(colleague) == taken)
    page.button("Put away").click()


def test_head_and_rows_stand_in_line_at_every_width(page) -> None:
    for width in (1100, 1280, 1920, 2560):
        page.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": False},
        )
        page.until(lambda w=width: page.driver.execute_script("return innerWidth") == w)
        head = page.all("[role=columnheader]")
        cells = page.row("Lantern housing").find_elements(By.CSS_SELECTOR, "[role=gridcell]")
        assert len(head) == len(cells)
        for one, other in zip(head, cells, strict=True):
            assert abs(one.rect["x"] - other.rect["x"]) < 1
            assert abs(one.rect["width"] - other.rect["width"]) < 1
        assert cells[-1].rect["x"] + cells[-1].rect["width"] <= width
