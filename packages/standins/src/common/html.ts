export const html = (value: unknown): string => String(value ?? '').replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** A plain page of a stand-in. @param body HTML */
export const render = (
  who: string,
  title: string,
  body: string,
): string => `<!doctype html><html lang="en"><meta charset="utf-8"><title>${html(title)} - ${html(who)}</title>
<style>body{font:15px/1.5 sans-serif;max-width:70rem;margin:1.5rem auto;padding:0 1rem;color:#222}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.25rem .6rem;border-bottom:1px solid #ddd;vertical-align:top}label{display:inline-block;min-width:14rem}textarea{width:30rem}</style>
<h1>${html(who)}: ${html(title)}</h1>${body}</html>`;
