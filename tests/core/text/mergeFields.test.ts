import { describe, expect, it } from 'vitest'
import { mergeFieldsInWords } from '../../../core/text/mergeFields'

describe('merge fields in a sentence', () => {
  it('have the names people know, and custom fields those of templates', () => {
    expect(mergeFieldsInWords(['title', 'city'])).toBe('job title or city')
    expect(mergeFieldsInWords(['title', 'city', 'first_name'], 'and')).toBe('job title, city, and first name')
    expect(mergeFieldsInWords(['company_number_of_trucks'])).toBe('company number of trucks')
    expect(mergeFieldsInWords([])).toBe('')
  })
})
