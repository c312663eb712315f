"""Makes docs/screenshots/ anew from the demo documents and examples.

Usage: python tools/make_screenshots.py
"""

from __future__ import annotations

import json
import os
import pty
import re
import runpy
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import matplotlib
import pypdfium2 as pdfium

from fleetquill.demo import documents as demo_documents
from fleetquill.demo.documents import make_documents
from fleetquill.demo.month import orders
from fleetquill.serve.plain import plain

ROOT = Path(__file__).parent.parent
EXAMPLES = ROOT / "examples"
TARGET = ROOT / "docs/screenshots"
SHELF = Path(demo_documents.__file__).parent / "shelf"
PAGES: dict[str, tuple[str | tuple[str, ...], list[int]]] = {  # picture → documents and their pages, from 1
    "invoice": ("invoice.pdf", [1]),
    "voyage-log": ("voyage-log.pdf", [1, 40]),
    "tables": ("tables.pdf", [1]),
    "report": ("report.pdf", [1, 2, 3, 6]),
    "certificate": ("certificate.pdf", [1]),
    "statement": ("statement.pdf", [1]),
    "labels": (("labels.pdf", "toll.pdf"), [1, 1]),
    "gallery": ("gallery.pdf", [1]),
    "specimen": ("specimen.pdf", [1, 2]),
    "cargo": ("cargo.pdf", [1, 2]),
    "tolls": ("tolls.pdf", [1, 2, 3]),
    "finished": (("inspection.pdf", "inspection-filled.pdf", "papers.pdf"), [1, 1, 1]),
    "manual": ("manual.pdf", [1, 2, 21, 26]),
    "looks": (("tolls-river.pdf", "tolls-quay.pdf", "tolls-lock.pdf"), [1, 1, 1]),
}
SCALE = 80 / 72
GAP = 16
WIDEST = 1900  # px


def shot_of(path: Path, number: int) -> Any:
    pdf: Any = pdfium.PdfDocument(path)
    pdf.init_forms()
    shot = pdf[number - 1].render(scale=SCALE).to_pil().convert("RGB")
    pdf.close()
    return shot


def kinds(folder: Path) -> None:
    """The statement as a page of the web, and as plain text in a monospace face."""
    from PIL import Image, ImageDraw, ImageFont

    browser = shutil.which("chromium") or shutil.which("chromium-browser")
    if browser is None:
        print("kinds.png is not made anew: there is no browser.")
        return
    shot = folder / "html.png"
    command = [
        browser,
        "--headless",
        "--no-sandbox",
        "--hide-scrollbars",
        "--window-size=800,800",
        f"--screenshot={shot}",
    ]
    subprocess.run([*command, (folder / "statement.html").as_uri()], capture_output=True, check=True)
    face = ImageFont.truetype(str(Path(matplotlib.get_data_path()) / "fonts/ttf/DejaVuSansMono.ttf"), 12)
    text = (folder / "statement.txt").read_text(encoding="utf-8")
    sheet = Image.new("RGB", (800 + 640 + 3 * GAP, 800 + 2 * GAP), "#c9d2cf")
    sheet.paste(Image.open(shot), (GAP, GAP))
    page = Image.new("RGB", (640, 800), "#ffffff")
    ImageDraw.Draw(page).multiline_text((20, 20), text, fill="#1d2a2f", font=face, spacing=3)
    sheet.paste(page, (800 + 2 * GAP, GAP))
    sheet.quantize(128).save(TARGET / "kinds.png", optimize=True)


@contextmanager
def shown(*arguments: str) -> Iterator[Any]:
    """What a command serves, in a browser."""
    from playwright.sync_api import sync_playwright

    command = [sys.executable, "-m", "fleetquill", *arguments]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as server, sync_playwright() as started:
        assert server.stdout is not None  # it is a pipe
        address = server.stdout.readline().split(": ", 1)[1].strip()
        browser = started.chromium.launch(executable_path=shutil.which("chromium"), args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        yield page
        browser.close()
        server.terminate()


def proof(folder: Path) -> None:
    """The demo's shelf in the browser, with something to remark and an element that is pointed at."""
    shelf = folder / "shelf"
    shutil.copytree(SHELF, shelf)
    template = shelf / "invoice" / "invoice.html"
    template.write_text(template.read_text().replace("<table>", '<table style="colr: #0f4c4a">'))
    with shown("proof", str(shelf)) as page:
        page.wait_for_selector(".page img")
        page.click("#pointing")
        sheet = page.locator(".page").bounding_box()
        page.mouse.move(sheet["x"] + sheet["width"] / 2, sheet["y"] + 0.36 * sheet["height"])
        page.wait_for_selector(".boxes")
        page.wait_for_timeout(500)
        page.screenshot(path=str(TARGET / "proof.png"))
    with shown("proof", str(shelf), "--edit") as page:
        page.wait_for_selector(".page img")
        page.click("#editing")
        page.wait_for_selector(".cm-content")
        page.locator("#remarks button").first.click()
        page.wait_for_selector(".cm-lint-marker")
        page.wait_for_timeout(500)
        page.screenshot(path=str(TARGET / "editor.png"))


def service() -> None:
    """The page on which a document of the service is tried by hand, once it is made."""
    with shown("serve", str(SHELF), "--port", "0") as page:
        page.wait_for_selector("#data fieldset")
        page.select_option("#kinds", "html")
        page.click("#make")
        page.wait_for_selector("#said a")
        page.wait_for_timeout(800)
        page.screenshot(path=str(TARGET / "service.png"))


def printed(*arguments: str) -> str:
    """What a command prints."""
    command = [sys.executable, "-m", "fleetquill", *arguments]
    return subprocess.run(command, capture_output=True, text=True, check=True).stdout


def at_work(folder: Path) -> str:
    """What a fleet shows on a terminal: half-way, and at its end."""
    with (folder / "orders.jsonl").open("w", encoding="utf-8") as file:
        file.writelines(json.dumps(plain(order)) + "\n" for order in orders(600))
    command = [
        *(
            sys.executable,
            "-m",
            "fleetquill",
            "fleet",
            str(SHELF),
            "--document",
            "invoice",
            "--records",
            "orders.jsonl",
        ),
        *("--name", "{date}/{number} {customer[name]}.pdf", "--into", "june"),
    ]
    own, theirs = pty.openpty()
    environment = os.environ | {"COLUMNS": "96", "TERM": "xterm", "NO_COLOR": "1"}
    with subprocess.Popen(command, cwd=folder, stdout=theirs, stderr=theirs, env=environment) as process:
        os.close(theirs)
        said = b""
        while True:
            try:
                piece = os.read(own, 65536)
            except OSError:
                break
            if not piece:
                break
            said += piece
        assert process.wait() == 0
    lines = [re.sub(r"\x1b\[[0-9;?]*[A-Za-z]", "", line).strip() for line in re.split(r"[\r\n]+", said.decode())]
    frames = [line for line in lines if "/600" in line]
    shown = [
        "$ fleetquill fleet shelf/ --document invoice --records orders.jsonl \\",
        "    --name '{date}/{number} {customer[name]}.pdf' --into june",
        frames[len(frames) // 2],
        "…",
        lines[-2] or lines[-1],
    ]
    checked = subprocess.run([*command[:4], "--check", "june"], cwd=folder, capture_output=True, text=True, check=True)
    return "\n".join([*shown, "$ fleetquill fleet --check june", checked.stdout.strip()])


def terminal(folder: Path) -> None:
    """The checker's table of clauses, the data of an invoice, and a fleet at work, as a terminal shows them."""
    from PIL import Image, ImageDraw, ImageFont

    invoice = str(folder / "invoice.pdf")
    clauses = printed("check", invoice).replace(f"{folder}/", "").splitlines()
    shown = [*clauses[:27], "…", *clauses[-11:]]
    texts = ["$ fleetquill check invoice.pdf\n" + "\n".join(line.rstrip() for line in shown)]
    texts.append("$ fleetquill invoice-data invoice.pdf\n" + printed("invoice-data", invoice))
    face = ImageFont.truetype(str(Path(matplotlib.get_data_path()) / "fonts/ttf/DejaVuSansMono.ttf"), 12)
    sheet = Image.new("RGB", (860 + 660 + 3 * GAP, 650 + 150 + 3 * GAP), "#c9d2cf")
    places = ((GAP, GAP, 860, 650), (860 + 2 * GAP, GAP, 660, 650), (GAP, 650 + 2 * GAP, 860 + GAP + 660, 150))
    for (x, y, width, height), text in zip(places, [*texts, at_work(folder)], strict=True):
        page = Image.new("RGB", (width, height), "#1d2a2f")
        ImageDraw.Draw(page).multiline_text((18, 16), text, fill="#eef3f1", font=face, spacing=3)
        sheet.paste(page, (x, y))
    sheet.quantize(64).save(TARGET / "terminal.png", optimize=True)


def main() -> None:
    from PIL import Image

    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        list(make_documents(Path(folder)))
        sys.argv[1:] = [folder]
        runpy.run_path(str(EXAMPLES / "looks.py"), run_name="__main__")
        subprocess.run([sys.executable, "-m", "tools.manual", "--quick"], cwd=ROOT, check=True)
        shutil.copy(ROOT / "build/docs/manual.pdf", folder)
        made = {path.name: path for path in Path(folder).glob("*.pdf")}
        for name, (documents, numbers) in PAGES.items():
            named = (documents,) * len(numbers) if isinstance(documents, str) else documents
            shots = [shot_of(made[document], number) for document, number in zip(named, numbers, strict=True)]
            scale = min(1.0, WIDEST / sum(shot.width for shot in shots))
            shots = [shot.resize((round(shot.width * scale), round(shot.height * scale))) for shot in shots]
            width = sum(shot.width for shot in shots) + GAP * (len(shots) + 1)
            height = max(shot.height for shot in shots) + 2 * GAP
            sheet = Image.new("RGB", (width, height), "#c9d2cf")
            x = GAP
            for shot in shots:
                sheet.paste(shot, (x, GAP))
                x += shot.width + GAP
            sheet.quantize(128).save(TARGET / f"{name}.png", optimize=True)
        kinds(Path(folder))
        proof(Path(folder))
        service()
        terminal(Path(folder))


if __name__ == "__main__":
    main()
