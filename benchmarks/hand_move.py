"""How long a hand move takes at the browser, beside what the network and the swap take of it.

Run against a running demo: .venv/bin/python benchmarks/hand_move.py http://127.0.0.1:8765
Moves one thing to and fro by keys and takes the time from the last key to the settled page.
"""

import statistics
import sys

from playwright.sync_api import sync_playwright

MOVES = 12
_WATCH = """() => {
  window.moves = [];
  document.addEventListener('keydown', e => { window.pressed = performance.now(); window.told = null; }, true);
  new MutationObserver(() => {
    const text = (document.getElementById('holding') || {}).textContent || '';
    if (!window.told && text.includes('Checks follow')) requestAnimationFrame(() => {
      window.told = window.told || performance.now() - window.pressed;
    });
  }).observe(document.body, { childList: true, subtree: true, characterData: true });
  document.addEventListener('htmx:beforeSwap', () => { window.answered = performance.now(); });
  document.addEventListener('htmx:afterSettle', () => {
    window.moves.push([window.answered - window.pressed, performance.now() - window.pressed, window.told]);
  });
}"""

_ASK_AGAIN = """(address) => new Promise(resolve => {
  const start = performance.now();
  document.addEventListener('htmx:afterSettle', () => resolve(performance.now() - start), { once: true });
  window.htmx.ajax('GET', address, { target: '#stage', swap: 'outerHTML' });
})"""


def main(address: str) -> None:
    """Measure and print."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.goto(page.url.rsplit("/", 1)[0] + "/load")
        page.evaluate(_WATCH)
        for k in range(MOVES):
            name = ("seat pack", "bar pouch")[k % 2]
            letter = page.get_by_role("region", name=name, exact=True).get_attribute("data-key") or ""
            page.locator('.places .item[data-name="rain jacket"]').focus()
            page.keyboard.press("m")
            page.wait_for_timeout(300)
            page.keyboard.press(letter)
            page.wait_for_timeout(700)
        moves = page.evaluate("window.moves.map(m => m)")
        asked = [page.evaluate(_ASK_AGAIN, page.url) for _ in range(MOVES)]
        steps = []
        for k in range(MOVES):
            page.evaluate("window.moves = []; window.pressed = performance.now()")
            page.keyboard.press("]" if k < MOVES // 2 else "[")
            page.wait_for_timeout(900)
            steps.append(page.evaluate("window.moves[0][1]"))
        browser.close()
    same = statistics.median(asked)
    settled = [whole for _, whole, _ in moves]
    told = [first for _, _, first in moves if first is not None]
    print(f"{len(moves)} moves: minutes and balance shown after {statistics.median(told):.0f} ms (median)")
    print(f"answered after {statistics.median(a for a, _, _ in moves):.0f} ms, "
          f"settled after {statistics.median(settled):.0f} ms (median), {max(settled):.0f} at most")  # fmt: skip
    print(f"a step to the next leg settled after {statistics.median(steps):.0f} ms")
    print(f"the same room asked for again, nothing changed: {same:.0f} ms; a move takes "
          f"{statistics.median(settled) / same:.1f} times that, a step "
          f"{statistics.median(steps) / same:.1f}")  # fmt: skip


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8765")
