/** A block as a person writes it: what it is, and the text in it with tags for marks and links. */

export const KINDS = [
  ["p", "text"],
  ["h1", "heading 1"],
  ["h2", "heading 2"],
  ["h3", "heading 3"],
  ["h4", "heading 4"],
  ["h5", "heading 5"],
  ["h6", "heading 6"],
  ["ul", "a list, a line each"],
  ["ol", "a numbered list, a line each"],
  ["blockquote", "a quotation"],
  ["pre", "code"],
  ["html", "anything, as HTML"],
] as const;
export type Kind = (typeof KINDS)[number][0];

const ONE = /^\s*<(p|h[1-6])(?:\s[^>]*)?>([\s\S]*)<\/\1>\s*$/i;
const ITEMS = /^\s*<(ul|ol)>\s*((?:<li>(?:(?!<\/?(?:li|ul|ol|p|div|pre|table)\b)[\s\S])*<\/li>\s*)+)<\/\1>\s*$/i;
const QUOTE =
  /^\s*<blockquote>\s*<p>((?:(?!<\/?(?:p|div|ul|ol|pre|table|blockquote)\b)[\s\S])*)<\/p>\s*<\/blockquote>\s*$/i;

/** What the HTML of a block is, as far as it can be written as a text. */
export function kindOf(html: string): Kind {
  const one = ONE.exec(html);
  if (one && !/<\/?(?:p|h[1-6])\b/i.test(one[2] ?? "") && !/^\s*<\w+\s/.test(html))
    return (one[1] ?? "p").toLowerCase() as Kind;
  const items = ITEMS.exec(html);
  if (items) return (items[1] ?? "ul").toLowerCase() as Kind;
  return QUOTE.test(html) ? "blockquote" : "html";
}

/** The text in a block. */
export function inner(html: string, kind: Kind): string {
  if (kind === "html" || kind === "pre") return html.trim();
  if (kind === "ul" || kind === "ol")
    return [...html.matchAll(/<li>([\s\S]*?)<\/li>/gi)].map((item) => (item[1] ?? "").trim()).join("\n");
  if (kind === "blockquote") return (QUOTE.exec(html)?.[1] ?? "").trim();
  return (ONE.exec(html)?.[2] ?? "").trim();
}

const plain = (text: string) => text.replace(/&/g, "&amp;").replace(/</g, "&lt;");

/** The HTML of a text as what it is said to be. */
export function written(text: string, kind: Kind): string {
  if (kind === "html") return text.trim();
  if (kind === "pre") return `<pre><code>${plain(text)}</code></pre>`;
  const parts = text
    .split(/\n\s*\n/)
    .map((part) => part.trim())
    .filter(Boolean);
  if (kind === "ul" || kind === "ol")
    return parts
      .map(
        (part) =>
          `<${kind}>\n${part
            .split("\n")
            .map((line) => `<li>${line.trim()}</li>`)
            .join("\n")}\n</${kind}>`,
      )
      .join("\n");
  if (kind === "blockquote") return `<blockquote>\n${parts.map((part) => `<p>${part}</p>`).join("\n")}\n</blockquote>`;
  return parts.map((part) => `<${kind}>${part}</${kind}>`).join("\n");
}

/** Two blocks as one: texts with a blank between, lists as one list; others stay two, in one place. */
export function joined(first: string, second: string): string {
  const [one, other] = [kindOf(first), kindOf(second)];
  if (one === "html" || other === "html") return `${first}\n${second}`;
  const between = one === "ul" || one === "ol" ? "\n" : " ";
  return written(`${inner(first, one)}${between}${inner(second, other)}`, one);
}
