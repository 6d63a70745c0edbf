import { createHash } from 'node:crypto';
import {
  defaultTreeAdapter as tree,
  html as markup,
  parse,
  serialize,
  type DefaultTreeAdapterTypes,
} from 'parse5';

type Node = DefaultTreeAdapterTypes.ChildNode;
type Element = DefaultTreeAdapterTypes.Element;

/** What a report is made of; everything else is taken out with what is in it. */
const elements = new Set(
  `html head meta title style body header h1 h2 h3 p figure figcaption div span section table caption thead tbody
  tfoot tr th td b i em strong small br del ins bdi
  svg g defs title desc path rect circle ellipse line polyline polygon text tspan clippath lineargradient stop`.split(
    /\s+/,
  ),
);

/** Attributes that name an address, or what a browser does by itself. */
const active =
  /^(?:on|form|src|href|action|data$|background|ping|poster|manifest|http-equiv|target)/i;

/**
 * A report's page with nothing in it that does anything: no scripts, no frames, no addresses. What would be loaded all
 * the same is refused by the page's own policy (CSP 3), first of all that is in it: nothing but its styles, which are
 * named by what is in them. The same page again stays as it is. Read and written as browsers do (HTML standard, 13).
 */
export function harmlessPage(html: string): string {
  const document = parse(html);
  const styles: string[] = [];
  clean(document, styles);
  const head = elementIn(elementIn(document, 'html'), 'head');
  const policy = tree.createElement('meta', markup.NS.HTML, [
    { name: 'http-equiv', value: 'Content-Security-Policy' },
    { name: 'content', value: policyOf(styles) },
  ]);
  const [first] = head?.childNodes ?? [];
  if (head !== undefined && first !== undefined) tree.insertBefore(head, policy, first);
  return serialize(document);
}

/** Takes out of a part what a report never has; collects the texts of its styles. */
function clean(part: DefaultTreeAdapterTypes.ParentNode, styles: string[]): void {
  for (const child of [...part.childNodes]) {
    if (!tree.isElementNode(child)) {
      if (tree.isCommentNode(child)) tree.detachNode(child);
      continue;
    }
    child.attrs = child.attrs.filter(({ name, prefix }) => !active.test(name) && !prefix);
    if (!isOfReports(child)) tree.detachNode(child);
    else {
      if (child.tagName === 'style') styles.push(textOf(child));
      clean(child, styles);
    }
  }
}

function isOfReports({ tagName, attrs }: Element): boolean {
  if (tagName !== 'meta') return elements.has(tagName.toLowerCase());
  // Of what a page says about itself: its encoding, and how wide it is.
  const named = attrs.find(({ name }) => name === 'name');
  return attrs.every(({ name }) => name === 'charset') || named?.value === 'viewport';
}

/** What a report may load: nothing but its own styles, named by what is in them (CSP 3, 8.3). */
function policyOf(styles: readonly string[]): string {
  const hashes = styles.map(
    (text) => `'sha256-${createHash('sha256').update(text).digest('base64')}'`,
  );
  const allowed = hashes.length === 0 ? "'none'" : hashes.join(' ');
  return `default-src 'none'; base-uri 'none'; form-action 'none'; style-src ${allowed}`;
}

function elementIn(
  part: DefaultTreeAdapterTypes.ParentNode | undefined,
  name: string,
): Element | undefined {
  return part?.childNodes
    .filter((node: Node): node is Element => tree.isElementNode(node))
    .find(({ tagName }) => tagName === name);
}

function textOf({ childNodes }: Element): string {
  return childNodes.map((node) => (tree.isTextNode(node) ? node.value : '')).join('');
}
