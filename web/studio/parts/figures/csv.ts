/** A cell of a CSV file that no spreadsheet takes for a formula. */
const cell = (x: string | number | null) => {
  const text = String(x ?? '')
  const safe = typeof x === 'string' && /^[=+\-@\t\r]/.test(text) ? `'${text}` : text
  return /[",\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe
}

/** Has the browser save rows as a CSV file (RFC 4180). */
export function saveCSV(name: string, rows: (string | number | null)[][]) {
  const url = URL.createObjectURL(new Blob([rows.map(r => r.map(cell).join(',')).join('\r\n')], { type: 'text/csv' }))
  Object.assign(document.createElement('a'), { href: url, download: name }).click()
  setTimeout(() => URL.revokeObjectURL(url))
}
