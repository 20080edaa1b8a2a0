#!/usr/bin/env python3
"""Ticks files on a sheet in a real browser, saves the ticks, and has them marked and exported.

usage: scripts/browser_test.py UNDERSHELF        exit status 1 where something is not as it should be

Chromium is driven by its WebDriver (W3C), without any window. Everything is made in a folder of its own.
"""
import base64
import glob
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request

PATIENCE = 30  # seconds, for what a browser does by itself


class Browser:
    """One page of a headless Chromium; downloads go to a folder."""

    def __init__(self, folder):
        self.driver = subprocess.Popen(["chromedriver", "--port=0"], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        port = None
        for line in self.driver.stdout:
            found = re.search(r"successfully on port (\d+)", line)
            if found:
                port = found.group(1)
                break
        if not port:
            sys.exit("chromedriver does not start: apt-get install chromium chromium-driver")
        self.base = f"http://127.0.0.1:{port}/session"
        options = {"args": ["--headless=new", "--no-sandbox", "--disable-gpu", "--window-size=1280,800",
                            f"--user-data-dir={folder}/profile"],
                   "prefs": {"download.default_directory": folder}}
        self.base += "/" + self.ask("", {"capabilities": {"alwaysMatch": {
            "goog:chromeOptions": options, "goog:loggingPrefs": {"browser": "ALL"}}}})["sessionId"]

    def ask(self, path, body=None, method=None):
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.base + path, data, {"Content-Type": "application/json"},
                                         method=method or ("POST" if body is not None else "GET"))
        with urllib.request.urlopen(request, timeout=120) as answer:
            return json.load(answer)["value"]

    def go(self, path):
        self.ask("/url", {"url": "file://" + path})

    def run(self, script, *arguments):
        return self.ask("/execute/sync", {"script": script, "args": list(arguments)})

    def click(self, selector):
        key, element = next(iter(self.ask("/element", {"using": "css selector", "value": selector}).items()))
        self.run("arguments[0].scrollIntoView({block: 'center'})", {key: element})
        self.ask(f"/element/{element}/click", {})

    def press(self, keys):
        element = next(iter(self.ask("/element/active").values()))
        self.ask(f"/element/{element}/value", {"text": keys})

    def complaints(self):
        return [entry["message"] for entry in self.ask("/se/log", {"type": "browser"})]

    def picture(self, path):
        with open(path, "wb") as out:
            out.write(base64.b64decode(self.ask("/screenshot")))

    def close(self):
        try:
            self.ask("", method="DELETE")
        finally:
            self.driver.terminate()
            self.driver.wait()


def expect(condition, what):
    if not condition:
        sys.exit(f"browser test: {what}")


def waited_for(found, what):
    ends = time.monotonic() + PATIENCE
    while time.monotonic() < ends:
        value = found()
        if value:
            return value
        time.sleep(0.1)
    sys.exit(f"browser test: {what} within {PATIENCE} s")


def main():
    program = os.path.abspath(sys.argv[1])
    with tempfile.TemporaryDirectory() as folder:
        def run(*words, status=0):
            ran = subprocess.run([program, *words], cwd=folder, capture_output=True, text=True)
            expect(ran.returncode == status, f"{' '.join(words)} gave {ran.returncode}: {ran.stderr}{ran.stdout}")
            return ran.stdout

        run("demo", folder + "/demo")
        card, photos = folder + "/demo/theatre-card.shelf", folder + "/demo/theatre-photos.shelf"
        run("sheet", card, "--lost", "--to", folder + "/card.html")
        run("sheet", photos, "--to", folder + "/photos.html")
        browser = Browser(folder)
        try:
            ticked = tick(browser, folder)
        finally:
            browser.close()
        lists = glob.glob(folder + "/ticks-*.txt")
        expect(len(lists) == 1, f"one list of ticks is saved, not {lists}")
        saved = open(lists[0]).read().splitlines()
        expect(saved[0].startswith("# undershelf shelf "), "its first line names the shelf")
        expect([int(l) for l in saved if not l.startswith("#")] == ticked, "it has the numbers that were ticked")
        run("unmark", card, "--all")  # what the demo has marked
        run("mark", card, "--ids-from", lists[0])
        marked = run("list", card, "--marked", "--format", "ids").split("\n")
        expect(sorted(int(l) for l in marked if l and not l.startswith("#")) == ticked, "these are marked, and no others")
        run("mark", photos, "--ids-from", lists[0], status=4)
        run("export", card, "--marked", "--to", folder + "/bag", "--fell-short-ok")
        run("verify", folder + "/bag")
        print(f"browser test: {len(ticked)} files ticked, saved, marked and exported")


def tick(browser, folder):
    """Three files and a group; gives their numbers."""
    page = folder + "/card.html"
    browser.go(page)
    ids = browser.run("return [...document.querySelectorAll('input[data-id]')].map(b => Number(b.dataset.id))")
    group = browser.run("return [...document.querySelectorAll('section:last-of-type input[data-id]')].map(b => Number(b.dataset.id))")
    three = [i for i in ids if i not in group][:3]
    expect(len(three) == 3 and group, "the sheet has two groups at least")
    for i in three:
        browser.click(f"input[data-id='{i}']")
    browser.click("section:last-of-type input.group")
    wanted = sorted(three + group)
    now = "return [...document.querySelectorAll('input[data-id]:checked')].map(b => Number(b.dataset.id)).sort((a, b) => a - b)"
    expect(browser.run(now) == wanted, "what was clicked is ticked")
    expect(browser.run("return document.getElementById('count').textContent").startswith(str(len(wanted))), "the page counts ticks")
    browser.go(page)
    expect(browser.run(now) == wanted, "ticks are there after the page was loaded again")
    keys(browser)
    # The page's pictures are what they are: nothing was fetched, and nothing refused.
    expect(browser.run("return [...document.images].every(i => i.src.startsWith('data:') || i.src === '')"), "all pictures are in the page")
    broken = "return [...document.querySelectorAll('.picture img')].filter(i => i.complete && i.naturalWidth === 0).length"
    expect(browser.run(broken) == 0, "all pictures decode")
    browser.go(folder + "/photos.html")
    expect(browser.run(now) == [], "another shelf's sheet has ticks of its own")
    browser.go(page)
    browser.click("#save")
    waited_for(lambda: glob.glob(folder + "/ticks-*.txt"), "the list is saved")
    expect(not browser.complaints(), f"the browser has nothing to complain of: {browser.complaints()}")
    return wanted


def keys(browser):
    """By keyboard: the space bar ticks and takes away, arrows go on, Enter shows a picture larger."""
    focus = "document.querySelector('input[data-id]').focus(); return document.querySelectorAll('input:checked').length"
    before = browser.run(focus)
    browser.press(" ")
    browser.press(" ")
    expect(browser.run("return document.querySelectorAll('input:checked').length") == before, "the space bar ticks twice")
    browser.press("\ue014")  # arrow to the right
    expect(browser.run("return document.activeElement === document.querySelectorAll('input[data-id]')[1]"), "an arrow goes on")
    browser.run("document.querySelector('.picture').closest('.file').querySelector('input').focus()")
    browser.press("\ue007")  # Enter
    expect(browser.run("return document.getElementById('large').open"), "Enter shows a picture larger")
    browser.press("\ue00c")  # Escape
    expect(not browser.run("return document.getElementById('large').open"), "Escape closes it")


if __name__ == "__main__":
    main()
