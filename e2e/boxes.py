"""What of a page's text lies over other text, or makes it scroll sideways; but for labels that turn with a part."""

OVER = """
const seen = (e) => { const s = getComputedStyle(e); return s.visibility !== 'hidden' && +s.opacity > 0.05; };
const clip = (e) => {
  let [l, t, r, b] = [0, 0, innerWidth, innerHeight];
  for (let p = e; p && p !== document.body; p = p.parentElement) {
    const s = getComputedStyle(p);
    if (s.overflowX === 'visible' && s.overflowY === 'visible') continue;
    if (p instanceof SVGElement && !(p instanceof SVGSVGElement)) continue;
    const q = p.getBoundingClientRect();
    [l, t, r, b] = [Math.max(l, q.left), Math.max(t, q.top), Math.min(r, q.right), Math.min(b, q.bottom)];
  }
  return [l, t, r, b];
};
const boxes = [];
const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
for (let n = walk.nextNode(); n; n = walk.nextNode()) {
  const e = n.parentElement;
  if (!n.data.trim() || !e || e.closest('script,style,option,noscript,.sr-only,[role=dialog]') || !seen(e)) continue;
  if (e.closest('details:not([open])') && !e.closest('summary')) continue;
  if (e.closest('svg') && e.closest('[data-specimen]')) continue;
  const range = document.createRange();
  range.selectNodeContents(n);
  const [l, t, r, b] = clip(e);
  for (const q of range.getClientRects()) {
    const box = [Math.max(q.left, l), Math.max(q.top, t), Math.min(q.right, r), Math.min(q.bottom, b)];
    if (box[2] - box[0] > 2 && box[3] - box[1] > 2) boxes.push({box, e, words: n.data.trim().slice(0, 40)});
  }
}
boxes.sort((a, b) => a.box[1] - b.box[1]);
const out = [];
for (let i = 0; i < boxes.length; i++)
  for (let j = i + 1; j < boxes.length && boxes[j].box[1] < boxes[i].box[3]; j++) {
    const [a, c] = [boxes[i], boxes[j]];
    const wide = Math.min(a.box[2], c.box[2]) - Math.max(a.box[0], c.box[0]);
    const high = Math.min(a.box[3], c.box[3]) - Math.max(a.box[1], c.box[1]);
    if (wide > 3 && high > 4 && a.e !== c.e) out.push(`“${a.words}” over “${c.words}”`);
  }
const d = document.documentElement;
if (d.scrollWidth > innerWidth) out.push(`scrolls sideways: ${d.scrollWidth} in ${innerWidth}`);
return out;
"""


def crowded(driver) -> list[str]:
    """Each pair of texts that lie over each other, and whether the page scrolls sideways; nothing where all is well."""
    return driver.execute_script(OVER)
