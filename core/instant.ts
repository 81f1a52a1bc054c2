/** An identifier: a UUID for rows people make, a short key for stages. Made outside of core and passed in. */
export type Id = string

/** A moment: whole milliseconds since 1970-01-01T00:00Z. Core never asks for the present one. */
export type Instant = number

export const SECOND = 1_000
export const MINUTE = 60_000
export const HOUR = 3_600_000
export const DAY = 86_400_000
