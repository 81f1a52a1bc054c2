import type { Role } from './enumerations'

/** Whether someone of a role sees everything and sets up the team's work. */
export const manages = ({ role }: { role: Role }): boolean => role === 'manager' || role === 'admin'

/** Whether someone of a role only calls: sees their call blocks, their to-dos and who is in hand, and nothing else. */
export const onlyCalls = ({ role }: { role: Role }): boolean => role === 'caller'
