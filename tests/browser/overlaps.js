() => {
  const SLACK = 2;
  const skipped = "script, style, noscript, option, .visually-hidden, [aria-hidden=true]:not(svg *), title, desc";

  function clipOf(element) {
    const clip = { left: -1e9, top: -1e9, right: 1e9, bottom: 1e9 };
    for (let up = element; up && up !== document.documentElement; up = up.parentElement) {
      const style = getComputedStyle(up);
      const isClipped = style.overflow !== "visible" && !(up instanceof SVGElement && up.tagName !== "svg");
      if (isClipped && up !== document.body) {
        const box = up.getBoundingClientRect();
        clip.left = Math.max(clip.left, box.left);
        clip.top = Math.max(clip.top, box.top);
        clip.right = Math.min(clip.right, box.right);
        clip.bottom = Math.min(clip.bottom, box.bottom);
      }
    }
    return clip;
  }

  function floats(element) {
    for (let up = element; up; up = up.parentElement) {
      const { position } = getComputedStyle(up);
      if (position === "fixed" || position === "sticky") {
        return true;
      }
    }
    return false;
  }

  const words = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const element = node.parentElement;
    const text = node.textContent.trim();
    if (!text || element.closest(skipped) || !element.checkVisibility({ visibilityProperty: true })) {
      continue;
    }
    const range = document.createRange();
    range.selectNodeContents(node);
    const clip = clipOf(element);
    const isFloating = floats(element);
    const size = parseFloat(getComputedStyle(element).fontSize);
    for (const box of range.getClientRects()) {
      // a line's box is taller than its letters
      const middle = (box.top + box.bottom) / 2;
      const half = Math.min(box.height, size) / 2;
      const part = {
        left: Math.max(box.left, clip.left),
        right: Math.min(box.right, clip.right),
        top: Math.max(middle - half * 0.8, clip.top),
        bottom: Math.min(middle + half * 0.7, clip.bottom),
      };
      if (part.right - part.left > SLACK && part.bottom - part.top > SLACK) {
        words.push({ ...part, text, isFloating, node });
      }
    }
  }
  const found = [];
  words.sort((a, b) => a.top - b.top);
  words.forEach((one, place) => {
    for (let next = place + 1; next < words.length && words[next].top < one.bottom; next += 1) {
      const other = words[next];
      const across = Math.min(one.right, other.right) - Math.max(one.left, other.left);
      const down = Math.min(one.bottom, other.bottom) - Math.max(one.top, other.top);
      if (one.node !== other.node && one.isFloating === other.isFloating && across > SLACK && down > SLACK) {
        found.push(`${one.text.slice(0, 30)} × ${other.text.slice(0, 30)}`);
      }
    }
  });
  return [...new Set(found)];
}
