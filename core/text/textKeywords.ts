/** What a text asks for by its one word. */
export type TextKeyword = 'stop' | 'start' | 'help'

/**
 * Words that are obeyed at once, whatever their case (CTIA, Messaging Principles and Best Practices, 5.1.3: opt-out;
 * START and UNSTOP, INFO are common practice, no published source).
 */
const WORDS: Readonly<Record<string, TextKeyword>> = {
  stop: 'stop',
  stopall: 'stop',
  end: 'stop',
  cancel: 'stop',
  unsubscribe: 'stop',
  quit: 'stop',
  start: 'start',
  unstop: 'start',
  help: 'help',
  info: 'help',
}

/** What a text asks for, where it is one of these words alone; punctuation and white space around it do not count. */
export function textKeyword(body: string): TextKeyword | null {
  const word = body
    .trim()
    .toLowerCase()
    .replace(/^[^a-z]+|[^a-z]+$/g, '')
  return Object.hasOwn(WORDS, word) ? WORDS[word]! : null
}

/** What is answered to such a word, once. */
export function keywordAnswer(keyword: TextKeyword, team: string): string {
  switch (keyword) {
    case 'stop':
      return `${team}: you will get no more texts from us. Reply START to get them again.`
    case 'start':
      return `${team}: you will get texts from us again. Reply STOP to end them, HELP for help.`
    case 'help':
      return `${team}: a person reads what you write here. Reply STOP to end texts. Message and data rates may apply.`
  }
}
