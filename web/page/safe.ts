/** Whether an address cannot run as a script. */
export const safe = (address = '') => /^(https?:\/\/|mailto:|tel:|\/(?!\/))/i.test(address)
