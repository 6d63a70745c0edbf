/** How a report looks, on a screen and on paper. */
export function reportStyle(title: string, isWide: boolean): string {
  return `
@page {
  size: A4 ${isWide ? 'landscape' : 'portrait'};
  margin: 16mm 14mm 18mm;
  @bottom-left { content: "${cssText(title)}"; ${ofMargin} }
  @bottom-right { content: counter(page) " / " counter(pages); ${ofMargin} }
}
* { box-sizing: border-box; }
body {
  max-width: ${isWide ? 70 : 52}rem;
  margin: 2.5rem auto;
  padding: 0 1.5rem;
  background: #fdfaf4;
  color: #2b2620;
  font: 0.9rem/1.45 "Source Sans 3", "Liberation Sans", "DejaVu Sans", sans-serif;
  font-variant-numeric: tabular-nums;
}
h1, caption, .sentence, figcaption { font-family: "Source Serif 4", "Liberation Serif", Georgia, "DejaVu Serif", serif; }
h1 { margin: 0 0 0.3rem; font-size: 1.9rem; font-weight: 600; line-height: 1.2; }
caption { padding: 1.8rem 0 0.4rem; font-size: 1.15rem; font-weight: 600; text-align: start; }
.sentence { margin: 0 0 0.5rem; font-size: 1.1rem; font-style: italic; }
header { padding-bottom: 0.6rem; border-bottom: 2px solid #b3701b; }
header p { margin: 0.2rem 0; }
.facts { color: #6f6558; }
figure { margin: 1.4rem 0 0; break-inside: avoid; }
figcaption { margin-bottom: 0.3rem; font-size: 1rem; }
figcaption::first-letter { text-transform: uppercase; }
svg { display: block; width: 100%; height: auto; font-size: 12px; overflow: visible; }
svg text, svg tspan { white-space: pre; }
table { width: 100%; border-collapse: collapse; }
thead { display: table-header-group; }
tr { break-inside: avoid; }
.top td { font-weight: 600; }
th, td {
  padding: 0.25rem 0.6rem 0.25rem 0;
  border-bottom: 1px solid #e4dccf;
  text-align: start;
  vertical-align: top;
  overflow-wrap: break-word;
}
th { border-bottom-color: #b9ae9f; font-weight: 600; overflow-wrap: normal; }
.end { padding-inline: 0.3rem 0.9rem; text-align: end; white-space: nowrap; }
.whole { white-space: nowrap; }
@media print {
  body { max-width: none; margin: 0; padding: 0; background: none; font-size: 8.5pt; }
  section + section { break-before: page; }
  h1 { font-size: 20pt; }
  .sentence { font-size: 11pt; }
}
`;
}

const ofMargin = 'font: 8pt sans-serif; color: #6f6558;';

/** A text in a string of CSS, which cannot end it, or the style around it. */
function cssText(text: string): string {
  return text.replaceAll(/[^\p{L}\p{N} .,:;()_-]/gu, (sign) => {
    return `\\${(sign.codePointAt(0) ?? 0).toString(16)} `;
  });
}
