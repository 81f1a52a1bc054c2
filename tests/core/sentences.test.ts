import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import ts from 'typescript'
import { expect, it } from 'vitest'

/** Calls whose argument at this place is a sentence for anyone who made the request. */
const SENTENCE_AT: Record<string, number> = {
  Refusal: 1,
  refuse: 1,
  at: 1,
  regex: 1,
  refine: 1,
  min: 1,
  max: 1,
  uuid: 0,
  int: 0,
}

/** A literal as it reads, with `…` for what is filled in; null for anything else. */
function sentencesIn(node: ts.Expression): string[] {
  if (ts.isStringLiteralLike(node)) return [node.text]
  if (ts.isTemplateExpression(node)) {
    return [node.head.text + node.templateSpans.map((span) => `…${span.literal.text}`).join('')]
  }
  if (ts.isConditionalExpression(node)) return [...sentencesIn(node.whenTrue), ...sentencesIn(node.whenFalse)]
  return []
}

function sentencesOf(file: string): string[] {
  const found = new Set<string>()
  const look = (node: ts.Node): void => {
    if (ts.isCallExpression(node) || ts.isNewExpression(node)) {
      const callee = ts.isPropertyAccessExpression(node.expression) ? node.expression.name : node.expression
      const at = SENTENCE_AT[callee.getText()]
      const argument = at === undefined ? undefined : node.arguments?.[at]
      if (argument) sentencesIn(argument).forEach((sentence) => found.add(sentence))
    }
    if (ts.isPropertyAssignment(node) && node.name.getText() === 'message') {
      sentencesIn(node.initializer).forEach((sentence) => found.add(sentence))
    }
    ts.forEachChild(node, look)
  }
  look(ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true))
  return [...found].filter((sentence) => /[a-z] [a-z]|^[A-Z]/.test(sentence)).sort()
}

it('the sentences of all refusals are those of the snapshot', async () => {
  const root = new URL('../../', import.meta.url).pathname
  const sentences = ['core', 'shared', 'server']
    .flatMap((folder) =>
      readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' }).map((name) => join(root, folder, name)),
    )
    .filter((name) => name.endsWith('.ts'))
    .flatMap(sentencesOf)
  const text = [...new Set(sentences)].sort().join('\n') + '\n'
  await expect(text).toMatchFileSnapshot('sentences.txt')
})
