"""The page of `report`: what it says is what the commands say, and a browser shows it by keyboard alone, in the dark, on
paper, and whatever the tree's names are made of."""

from __future__ import annotations

import base64
import json
import re
import shutil
import unittest
from typing import Any, ClassVar

from isodesm.output.page.writing import as_script
from tests.support import DEMO, TreeTest

SAMPLE = DEMO / "bulletin-desk"
BROWSER, DRIVER = shutil.which("chromium"), shutil.which("chromedriver")
FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--window-size=1280,800",
)
HOSTILE = "</script><script>document.title='spoilt'</script><img src=x onerror=\"document.title='spoilt'\">{{ 7*7 }}${7*7}"
TURNED = "\u202etxt.exe\u0007\u200b"
MAKING = """class {one}:
    def __init__(self):
        self.x = {other}()


class {other}:
    def f(self):
        open('x')
"""
FIND = "data.classes.map((row) => row[0]).find((each) => each.endsWith(arguments[0]))"
CONTRASTS = """
const parse = (text) => text.match(/[\\d.]+/g).map(Number);
const light = ([r, g, b]) => [r, g, b].map((c) => { c /= 255; return c <= 0.03928 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4; })
  .reduce((sum, c, i) => sum + c * [0.2126, 0.7152, 0.0722][i], 0);
const ground = (node) => { for (; node; node = node.parentElement) { const c = parse(getComputedStyle(node).backgroundColor);
  if (c.length < 4 || c[3] > 0) return c; } return [255, 255, 255]; };
const found = [];
for (const node of document.querySelectorAll('body *')) {
  const own = [...node.childNodes].some((each) => each.nodeType === 3 && each.data.trim());
  if (!own || !node.getClientRects().length || node.closest('.skip')) continue;
  const style = getComputedStyle(node), paint = node instanceof SVGElement ? style.fill : style.color;
  const [a, b] = [light(parse(paint)), light(ground(node))];
  const ratio = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
  if (ratio < 4.5) found.push(`${node.tagName} ${node.className} ${ratio.toFixed(2)} ${node.textContent.slice(0, 30)}`);
}
return found;
"""


class ContentTest(TreeTest):
    """What the page holds, without a browser."""

    def page(self, *arguments: str) -> str:
        done = self.run_program("report", *arguments, "-o", "page.html", "-q")
        self.assertEqual(done.returncode, 0, done.stderr)
        return (self.root / "page.html").read_text(encoding="utf-8")

    def data(self, *arguments: str) -> dict[str, Any]:
        found = re.search(r'<script type="application/json" id="data">(.*?)</script>', self.page(*arguments), re.DOTALL)
        assert found is not None
        return json.loads(found[1])

    def test_it_says_what_the_commands_say(self) -> None:
        data = self.data(str(SAMPLE))
        told = {
            name: json.loads(self.run_program(name, str(SAMPLE), "--format", "json").stdout)["result"]
            for name in ("scan", "rank", "plan", "layers")
        }
        self.assertEqual([row[0] for row in data["classes"]], [row["name"] for row in told["rank"]["classes"]])
        self.assertEqual(sum(each[3] for each in data["layerCounts"]), told["rank"]["summary"]["strain"])
        self.assertEqual(sum(each[4] for each in data["layerCounts"]), told["rank"]["summary"]["hard_bonds"])
        self.assertEqual(sum(each[3] for each in data["counts"]), told["scan"]["summary"]["findings"])
        self.assertEqual([each["id"] for each in data["findings"]], [each["id"] for each in told["scan"]["findings"]])
        self.assertEqual([each["id"] for each in data["plan"]["steps"]], [each["id"] for each in told["plan"]["steps"]])
        self.assertEqual(
            [each[:4] for each in data["layers"]["cells"]],
            [[each["source"], each["target"], each["bonds"], each["hard"]] for each in told["layers"]["crossings"]],
        )

    def test_the_same_tree_gives_the_same_bytes(self) -> None:
        first = self.page(str(SAMPLE))
        self.assertEqual(self.page(str(SAMPLE), "--no-cache", "--workers", "1"), first)
        self.assertNotIn("2031-01-09", first)
        self.assertIn("2031-01-09", self.page(str(SAMPLE), "--date", "2031-01-09"))
        self.assertLess(len(self.data(str(SAMPLE), "--plan", "2")["plan"]["steps"]), 3)

    def test_what_changed_since_a_mark(self) -> None:
        shutil.copytree(SAMPLE, self.root / "tree")
        self.run_program("mark", "tree", "-o", "kept.json")
        path = next((self.root / "tree").rglob("BulletinPage.java"))
        path.write_text(
            path.read_text()
            .replace("class BulletinPage {", 'class BulletinPage {\n    private final MailBell bell = new MailBell("x");', 1)
            .replace("import org.hollin", "import org.hollin.desk.infra.MailBell;\nimport org.hollin", 1)
        )
        drift = self.data("tree", "--mark", "kept.json")["drift"]
        self.assertEqual([each[1] for each in drift["new"]][:1], ["hard-wired-creation"], drift)
        self.assertIsNone(self.data("tree")["drift"])

    def test_texts_can_not_leave_their_place(self) -> None:
        written = as_script({"a": "</script><!-- & \u2028"})
        self.assertEqual(json.loads(written), {"a": "</script><!-- & \u2028"})
        self.assertFalse(set("<>&\u2028") & set(written))

    def test_a_tree_without_anything(self) -> None:
        self.write({"Hut.java": "class Hut { int height; }"})
        self.assertEqual(self.data(".")["stories"], [])


@unittest.skipUnless(BROWSER and DRIVER, "chromium and chromedriver are not installed")
class BrowserTest(TreeTest):
    driver: ClassVar[Any]

    @classmethod
    def setUpClass(cls) -> None:
        from selenium import webdriver
        from selenium.webdriver.chrome.service import Service

        options = webdriver.ChromeOptions()
        options.binary_location = BROWSER
        for each in FLAGS:
            options.add_argument(each)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL", "performance": "ALL"})
        cls.driver = webdriver.Chrome(options=options, service=Service(DRIVER))
        cls.addClassCleanup(cls.driver.quit)

    def open(self, *arguments: str, view: str = "front", dark: bool = False) -> None:
        done = self.run_program("report", *arguments, "-o", "page.html", "-q")
        self.assertEqual(done.returncode, 0, done.stderr)
        scheme = [{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}]
        self.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": scheme})
        self.driver.get(f"file://{self.root}/page.html#{view}")

    def find(self, selector: str) -> Any:
        return self.driver.find_element("css selector", selector)

    def texts(self, selector: str) -> list[str]:
        return [each.text for each in self.driver.find_elements("css selector", selector)]

    def press(self, *keys: str) -> None:
        from selenium.webdriver.common.action_chains import ActionChains

        ActionChains(self.driver).send_keys(*keys).perform()

    def test_by_keyboard_alone(self) -> None:
        from selenium.webdriver.common.keys import Keys

        self.open(str(SAMPLE))
        self.press(Keys.TAB)
        self.assertEqual(self.driver.switch_to.active_element.text, "To the contents")
        self.press(Keys.TAB, Keys.TAB, Keys.ENTER)
        self.assertEqual(self.texts("main section:not([hidden]) h1"), ["Classes"])
        for _ in range(6):
            self.press(Keys.TAB)
        heads = self.driver.execute_script("return document.activeElement.closest('th').dataset.by")
        self.assertEqual(heads, "name")
        self.press(Keys.TAB, Keys.TAB, Keys.ENTER)
        self.assertEqual(self.find("th[aria-sort]").get_attribute("data-by"), "hard-bonds")
        self.press(Keys.ENTER)
        self.assertEqual(self.find("th[aria-sort]").get_attribute("aria-sort"), "ascending")
        self.press(Keys.ENTER)
        self.driver.execute_script("document.querySelector('#rows tbody button').focus()")
        opened = self.driver.switch_to.active_element.text
        self.press(Keys.ENTER)
        self.assertTrue(self.find("#dossier").is_displayed())
        self.assertIn(opened, self.find("#dossier-title").text)
        self.press(Keys.ESCAPE)
        self.assertFalse(self.find("#dossier").is_displayed())
        self.assertEqual(self.driver.switch_to.active_element.text, opened)

    def test_sorted_and_filtered(self) -> None:
        self.open(str(SAMPLE), view="classes")
        rows = json.loads(self.run_program("rank", str(SAMPLE), "--by", "fan-out", "--format", "json").stdout)["result"][
            "classes"
        ]
        self.find("#by option[value=fan-out]").click()
        shown = self.texts("#rows tbody th button")
        self.assertEqual(shown[0], rows[0]["name"].rpartition(".")[2])
        self.assertEqual(len(shown), len(rows))
        self.find("#text").send_keys("bulletin")
        self.assertTrue(all("ulletin" in each for each in self.texts("#rows tbody th")))
        self.assertLess(len(self.texts("#rows tbody tr")), len(rows))
        self.assertIn(str(len(self.texts("#rows tbody tr"))), self.find("#how-many").text)

    def test_a_cell_a_step_and_a_dossier(self) -> None:
        self.open(str(SAMPLE), view="layers")
        self.find(".matrix td.wrong button").click()
        self.assertIn("FileGaugeFeed", self.find("#behind").text)
        self.find("#behind button").click()
        self.find("#dossier li button").click()
        self.assertEqual(self.texts("main section:not([hidden]) h1"), ["Plan"])
        self.assertTrue(self.find("details[open] pre").is_displayed())

    def test_nothing_is_loaded_and_nothing_complains(self) -> None:
        self.driver.get_log("browser"), self.driver.get_log("performance")
        for view in ("front", "classes", "layers", "objects", "plan"):
            self.open(str(DEMO), "--plan", "3", view=view)
        self.assertEqual([each for each in self.driver.get_log("browser") if each["level"] != "INFO"], [])
        for each in self.driver.get_log("performance"):
            message = json.loads(each["message"])["message"]
            if message["method"] == "Network.requestWillBeSent":
                self.assertTrue(message["params"]["request"]["url"].startswith("file:"), message)

    def test_one_language_of_several(self) -> None:
        self.open(str(DEMO), "--plan", "1")
        whole = self.find("h1").text
        self.find("#language option[value=php]").click()
        self.assertNotEqual(self.find("h1").text, whole)
        self.assertIn("PHP", self.find("#front-view p.quiet").text)
        self.assertTrue(all("Hollin" in each or "." in each for each in self.texts(".stories .place")))

    def test_hostile_names_are_text(self) -> None:
        body = f'void go() throws Exception {{ new Bell("{HOSTILE.replace(chr(34), chr(39))}").ring(); }}'
        self.write(
            {
                "a/Hut.java": f"class Hut {{ {body} }}",
                "a/Bell.java": "class Bell { Bell(String a) {} void ring() throws Exception { new java.net.Socket(); } }",
                f"a/{TURNED.replace(chr(7), '')}/constructor.py": MAKING.format(one="constructor", other="toString"),
                f"a/{'long' * 40}.py": MAKING.format(one="A" * 300, other="__proto__"),
            }
        )
        title = f"{HOSTILE} {TURNED}"
        for view in ("front", "classes", "plan", "objects"):
            self.open(".", "--title", title, view=view)
            self.assertIn("</script>", self.driver.title)
            self.assertEqual(len(self.driver.find_elements("css selector", "script")), 2)
            self.assertEqual(self.driver.find_elements("css selector", "img"), [])
        self.assertIn("{{ 7*7 }}${7*7}", self.find(".name").text)
        self.open(".", view="classes")
        for name in ("constructor", "toString", "Hut", "__proto__"):
            self.driver.execute_script(f"document.getElementById('dossier').close(); openDossier({FIND})", name)
            self.assertNotIn("native code", self.find("#dossier").text)
            self.assertTrue(self.find("#dossier-title").text.endswith(name))
        width = self.driver.execute_script(
            "document.getElementById('dossier').close(); return [document.documentElement.scrollWidth, innerWidth]"
        )
        self.assertLessEqual(width[0], width[1])
        self.assertNotIn("\u202e", self.driver.execute_script("return document.body.innerText"))

    def test_contrast_in_both_schemes(self) -> None:
        for dark in (False, True):
            for view in ("front", "classes", "layers", "objects", "plan"):
                with self.subTest(dark=dark, view=view):
                    self.open(str(SAMPLE), view=view, dark=dark)
                    if view == "plan":
                        self.driver.execute_script("document.querySelectorAll('details').forEach((each) => each.open = true)")
                    self.assertEqual(self.driver.execute_script(CONTRASTS), [])
            self.driver.execute_script("openDossier(data.classes[0][0])")
            self.assertEqual(self.driver.execute_script(CONTRASTS), [])

    def test_on_paper_everything_is_there(self) -> None:
        self.open(str(SAMPLE), "--plan", "3")
        printed = base64.b64decode(self.driver.execute_cdp_cmd("Page.printToPDF", {})["data"])
        self.assertGreaterEqual(len(re.findall(rb"/Type\s*/Page\b", printed)), 5)


if __name__ == "__main__":
    unittest.main()
