import ts from "typescript";
import { expect, test } from "vitest";
import plain from "../../tests/words/plain.json";

/** Texts of the page keep the rules of plain English; `tests/words` checks the rest of the product with the same list. */
const SOURCES = import.meta.glob<string>(
  ["./**/*.ts", "./**/*.tsx", "!./**/*.test.ts", "!./api/generated/**"],
  {
    query: "?raw",
    import: "default",
    eager: true,
  },
);
const NOT_SHOWN =
  /^(className|key|id|type|to|href|src|d|fill|viewBox|role|stroke|name|htmlFor|variant|size)$/;

interface Texts {
  readonly all: string[];
  readonly buttons: string[];
  readonly cancels: string[];
  readonly empty: string[];
  /** Ids that are shown in place of their words. */
  readonly ids: string[];
  /** Title and OK label of each dialog that has both. */
  readonly dialogs: string[];
}

const ofChild = (child: ts.JsxChild) =>
  ts.isJsxText(child)
    ? child.text
    : ts.isJsxExpression(child) && child.expression && ts.isStringLiteral(child.expression)
      ? child.expression.text
      : "{}";

/** Text of an attribute or a property, with `{}` for values. */
const ofValue = (node: ts.Node): string => {
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return node.text;
  if (ts.isTemplateExpression(node))
    return node.head.text + node.templateSpans.map((span) => `{}${span.literal.text}`).join("");
  if (ts.isJsxExpression(node) && node.expression) return ofValue(node.expression);
  return ts.isConditionalExpression(node) ? ofValue(node.whenTrue) : "";
};

const FILES = Object.entries(SOURCES).map(([path, text]) => ({ path, ...textsOf(path, text) }));

function textsOf(path: string, source: string): Texts {
  const file = ts.createSourceFile(
    path,
    source,
    ts.ScriptTarget.Latest,
    true,
    path.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const texts: Texts = { all: [], buttons: [], cancels: [], empty: [], dialogs: [], ids: [] };
  const visit = (node: ts.Node): void => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isLiteralTypeNode(node)) return;
    if (ts.isJsxAttribute(node) && NOT_SHOWN.test(node.name.getText(file))) return;
    if (ts.isJsxElement(node) && node.openingElement.tagName.getText(file) === "Button")
      texts.buttons.push(node.children.map(ofChild).join("").replace(/\s+/g, " ").trim());
    const named = (ts.isJsxAttribute(node) || ts.isPropertyAssignment(node)) && node.name.getText(file);
    const shown =
      ts.isTemplateSpan(node) || (ts.isJsxExpression(node) && !ts.isJsxAttribute(node.parent))
        ? node.expression?.getText(file)
        : "";
    if (shown && /(^|\.)(verdict|state)$/.test(shown)) texts.ids.push(shown);
    if (named === "okText") {
      const others = (node.parent as ts.JsxAttributes | ts.ObjectLiteralExpression).properties;
      const title = [...others].find((one) => one.name?.getText(file) === "title");
      const value = (one: ts.Node | undefined) =>
        one && (ts.isJsxAttribute(one) || ts.isPropertyAssignment(one)) && one.initializer
          ? ofValue(one.initializer)
          : "";
      texts.dialogs.push(`${value(title)} – ${value(node)}`);
    }
    if ((named === "empty" || named === "notFoundContent") && "initializer" in node)
      texts.empty.push(ofValue(node.initializer as ts.Node));
    if (ts.isJsxElement(node) && /"\w+-none"/.test(node.openingElement.attributes.getText(file)))
      texts.empty.push(node.children.map(ofChild).join("").replace(/\s+/g, " ").trim());
    if (named === "title" && ts.isJsxAttribute(node) && node.initializer) {
      const { tagName } = node.parent.parent;
      if (tagName.getText(file) === "Empty") texts.empty.push(ofValue(node.initializer));
    }
    if (named === "cancelText") texts.cancels.push(node.getText(file).replace(/^cancelText[=:]\s*/, ""));
    if (ts.isJsxText(node)) texts.all.push(node.text.replace(/\s+/g, " ").trim());
    else if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) texts.all.push(node.text);
    else if (ts.isTemplateExpression(node))
      texts.all.push(node.head.text + node.templateSpans.map((span) => `{}${span.literal.text}`).join(""));
    ts.forEachChild(node, visit);
  };
  visit(file);
  return { ...texts, all: texts.all.filter((text) => /[A-Za-z]{2}/.test(text)) };
}

const found = (pick: (file: Texts) => string[], wrong: (text: string) => boolean) =>
  FILES.flatMap((file) =>
    pick(file)
      .filter(wrong)
      .map((text) => `${file.path}: ${text}`),
  );

test("no text of the page has a banned phrase", () => {
  const patterns = plain.everywhere.map((one) => new RegExp(one, "i"));
  const shown = (text: string) => /\s/.test(text) || /^[A-Z]/.test(text);
  expect(FILES.length).toBeGreaterThan(150);
  expect(
    found(
      (file) => file.all,
      (text) => shown(text) && patterns.some((one) => one.test(text)),
    ),
  ).toEqual([]);
});

test("labels do not begin with a pronoun", () => {
  const patterns = plain.labels.map((one) => new RegExp(one));
  expect(
    found(
      (file) => file.all,
      (text) => text.length < 40 && patterns.some((one) => one.test(text)),
    ),
  ).toEqual([]);
});

test("buttons begin with a verb and have at most four words", () => {
  const first = new Set([...plain.verbs, ...plain.toggles]);
  const wrong = (text: string) => {
    const words = text.replace(/^\+ |\{\}$/g, "").split(" ");
    const plainText = /^[A-Za-z]/.test(words[0] ?? "");
    return plainText && (!first.has(words[0] ?? "") || words.length > 4 || /[.!?]$/.test(text));
  };
  expect(found((file) => file.buttons, wrong)).toEqual([]);
});

test("dialogs are left with Cancel", () => {
  // A running pass is not cancelled by leaving the question.
  expect(
    found(
      (file) => file.cancels,
      (text) => !/Cancel|Continue/.test(text),
    ),
  ).toEqual([]);
});

test("dialogs name the action of their button in their title", () => {
  const wrong = (text: string) => {
    const [title = "", ok = ""] = text.split(" – ");
    const verb = ok.split(" ")[0] ?? "";
    return !verb || !new RegExp(`^${verb}\\b.`).test(title);
  };
  expect(FILES.flatMap((file) => file.dialogs).length).toBeGreaterThan(5);
  expect(found((file) => file.dialogs, wrong)).toEqual([]);
});

test("empty states begin with No, work in progress with a verb in -ing", () => {
  expect(FILES.flatMap((file) => file.empty).length).toBeGreaterThan(8);
  expect(
    found(
      (file) => file.empty,
      (text) => !/^(No |Could not |\{\}$|$)/.test(text),
    ),
  ).toEqual([]);
  expect(
    found(
      (file) => file.all,
      (text) => / …$/.test(text) && !/(^|[.] )[A-Z]\w+ing\b[^.]* …$/.test(text),
    ),
  ).toEqual([]);
});

test("verdicts and states are shown by their words", () => {
  expect(
    found(
      (file) => file.ids,
      () => true,
    ),
  ).toEqual([]);
});
