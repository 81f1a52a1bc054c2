/** A company's status in words. */
export const COMPANY_STATUS = {
  open: 'Open',
  in_deal: 'In a deal',
  customer: 'Customer',
  not_a_fit: 'Not a fit',
  do_not_contact: 'Do not contact',
} as const
