import { useEffect } from 'react';

/** On narrow screens each row is a small list, and its cells say themselves what column they are of (style.css). */
function nameCells(table: HTMLTableElement): void {
  const names = [...(table.tHead?.rows[0]?.cells ?? [])].map((th) => th.textContent?.replace(/[\u2191\u2193]/g, '').trim() ?? '');
  if (names.length === 0) return;
  for (const body of table.tBodies) {
    for (const row of body.rows) {
      let at = 0;
      for (const cell of row.cells) {
        const name = names[at] ?? '';
        if (cell.dataset['column'] !== name) cell.dataset['column'] = name;
        at += cell.colSpan;
      }
    }
  }
}

/** Keeps the names of columns at the cells of every table of the page, whatever comes and goes in them. */
export function useTableLists(): void {
  useEffect(() => {
    const all = () => {
      for (const table of document.querySelectorAll('table')) nameCells(table);
    };
    all();
    let waiting = 0;
    const watcher = new MutationObserver(() => {
      cancelAnimationFrame(waiting);
      waiting = requestAnimationFrame(all);
    });
    watcher.observe(document.body, { childList: true, subtree: true });
    return () => {
      watcher.disconnect();
      cancelAnimationFrame(waiting);
    };
  }, []);
}
