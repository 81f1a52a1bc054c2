import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { merge, customMergeNames, renameInTemplate, templateFaults, TEMPLATE_LIMITS } from '../../../core/text/merge'
import { MERGE_FIELDS } from '../../../core/text/mergeFields'

describe('a template with a hole in it', () => {
  it.each<[string, Record<string, string>, string[]]>([
    ['{{ first_name }}', {}, ['first_name']],
    ['{{ first_name | upcase }}', {}, ['first_name']],
    ['{{ "Dear " | append: first_name }}', {}, ['first_name']],
    ['{% assign name = first_name %}Hello {{ name }}', {}, ['first_name']],
    ['{% capture name %}{{ first_name }}{% endcapture %}Hello {{ name }}', {}, ['first_name', 'name']],
    ['{{ first_name | divided_by: 0 }}', { first_name: '12' }, ['first_name']],
    ['{{ first_name | default: "" }}', {}, ['first_name']],
    ['{{ first_name | default: title }}', {}, ['title']],
    ['{% if first_name %}{{ company }}{% endif %}', { first_name: 'Ana' }, ['company']],
    ['{% if first_name %}yes{% else %}{{ company }}{% endif %}', {}, ['company']],
    ['{{ first_name | truncate: 0, "" }}', { first_name: 'Ana' }, ['first_name']],
  ])('%s with %j lacks %j', (template, values, missing) =>
    expect(merge(template, values)).toMatchObject({ missing, error: null }),
  )

  it.each<[string, Record<string, string>, string]>([
    ['{% if company %}At {{ company }}{% endif %}.', {}, '.'],
    ['{% if company == "Oxbow" %}you{% else %}they{% endif %}', {}, 'they'],
    ['{% unless company %}your company{% endunless %}', {}, 'your company'],
    ['{% case title %}{% when "CEO" %}chief{% else %}team{% endcase %}', {}, 'team'],
    ['{% if company == blank %}none{% endif %}', {}, 'none'],
    ['{{ first_name | default: "there" }}', {}, 'there'],
    ['{{ first_name | default: company }}', { company: 'Oxbow' }, 'Oxbow'],
    ['{% assign name = first_name | default: "there" %}{{ name }}', {}, 'there'],
  ])('%s with %j has none', (template, values, text) =>
    expect(merge(template, values)).toEqual({ text, missing: [], error: null }),
  )
})

describe('a template that cannot be used', () => {
  it.each([
    ['{{ constructor }}', 'There is no field "constructor"'],
    ['{{ toString }}', 'There is no field "toString"'],
    ['{{ company.name }}', '"company" has no parts: write {{ company }}'],
    ['{{ first_name | url_decode }}', 'undefined filter: url_decode'],
    ['{% for i in (1..1000000000) %}x{% endfor %}', 'tag "for" not found'],
    ['{% tablerow i in (1..9) %}x{% endtablerow %}', 'tag "tablerow" not found'],
    ['{% render "x" %}', 'tag "render" not found'],
  ])('%s is refused: %s', (template, message) => expect(templateFaults(template)).toEqual([{ line: 1, message }]))
  it('is refused when it parses but cannot be filled in', () => {
    expect(templateFaults('{{ first_name | append }}')).toHaveLength(1)
    expect(templateFaults('One line\n{{ first_name | append }}')).toMatchObject([{ line: 2 }])
  })
  it('costs no more than its share: length, nesting, doubling', () => {
    const long = 'x'.repeat(TEMPLATE_LIMITS.characters + 1)
    const deep = '{% if company %}'.repeat(20_000)
    const doubling = `{% assign a = "0123456789" %}${'{% assign a = a | append: a %}'.repeat(60)}{{ a }}`
    for (const template of [long, deep, doubling]) {
      expect(templateFaults(template)).toHaveLength(1)
      expect(merge(template, {})).toMatchObject({ text: '', error: { message: expect.any(String) as string } })
    }
  })
  it('never throws, whatever is written', () => {
    const piece = fc.oneof(
      fc.string(),
      fc.constantFrom(
        '{{',
        '}}',
        '{%',
        '%}',
        ' if ',
        ' endif ',
        ' assign x = ',
        '|',
        ' default: ',
        'first_name',
        ' append: ',
        '(1..9)',
        '"',
        '\n',
        'for i in ',
      ),
    )
    fc.assert(
      fc.property(
        fc.array(piece, { maxLength: 20 }),
        fc.dictionary(fc.constantFrom(...Object.keys(MERGE_FIELDS)), fc.string()),
        (pieces, values) => {
          const template = pieces.join('')
          const { text, error } = merge(template, values)
          expect(typeof text).toBe('string')
          // What passes the check can be filled in, with values and without.
          if (!templateFaults(template).length) expect(error).toBeNull()
        },
      ),
      { numRuns: 500 },
    )
  })
})

describe('a field that gets another name', () => {
  it('is renamed where it is the field, and nowhere else', () => {
    const template =
      'rooms {{ rooms | append: rooms }}\n{% assign copy = rooms %}{{ copy | replace: "rooms", rooms }} {% if rooms == "rooms" %}{{ bedrooms.rooms }}{% endif %}'
    expect(renameInTemplate(template, 'rooms', 'aging_rooms')).toBe(
      'rooms {{ aging_rooms | append: aging_rooms }}\n{% assign copy = aging_rooms %}{{ copy | replace: "rooms", aging_rooms }} {% if aging_rooms == "rooms" %}{{ bedrooms.rooms }}{% endif %}',
    )
  })
  it('is named by a word that the template language does not use itself', () => {
    const names = customMergeNames(
      ['And', 'True', 'Empty', 'Constructor'].map((name, index) => ({
        id: String(index),
        of: 'prospect',
        name,
        kind: 'text',
      })),
    )
    expect([...names.keys()]).toEqual(['field_and', 'field_true', 'field_empty', 'constructor'])
    for (const name of names.keys()) {
      expect(templateFaults(`{{ ${name} }}`, names)).toEqual([])
      expect(merge(`{{ ${name} }}`, { [name]: 'x' }).text).toBe('x')
    }
  })
})
