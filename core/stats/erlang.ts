/**
 * The share of calls that find every one of `servers` busy and are lost, at an offered load in erlangs (arrivals for
 * each unit of time, times how long one takes): Erlang's first formula (Erlang 1917), by its recursion, which neither
 * overflows nor cancels (ITU-T E.501; Iversen, Teletraffic Engineering Handbook, 4.4).
 */
export function erlangB(servers: number, load: number): number {
  let blocked = 1
  for (let server = 1; server <= servers; server++) blocked = (load * blocked) / (server + load * blocked)
  return blocked
}

/**
 * The share of calls that must wait, where those who find every server busy wait until one is free: Erlang's second
 * formula (Erlang 1917), from the first. 1 where the load is more than the servers can take.
 */
export function erlangC(servers: number, load: number): number {
  if (load >= servers) return 1
  const blocked = erlangB(servers, load)
  return (servers * blocked) / (servers - load * (1 - blocked))
}

/** How long a call waits on the average, in the unit of `lasts`; endless where the load is too much. */
export function erlangWait(servers: number, load: number, lasts: number): number {
  return load >= servers ? Infinity : (erlangC(servers, load) * lasts) / (servers - load)
}

/** The highest load, in erlangs, at which no more than a share of the calls is lost: the inverse of `erlangB`. */
export function loadAtLoss(servers: number, share: number): number {
  let low = 0
  let high = servers / (1 - share) + servers + 1
  for (let round = 0; round < 60; round++) {
    const middle = (low + high) / 2
    if (erlangB(servers, middle) > share) high = middle
    else low = middle
  }
  return low
}
