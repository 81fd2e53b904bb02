// Durations as people choose them: ISO 8601 and words.
const spans: [string, string][] = [
  ['PT10S', '10 seconds'],
  ['PT20S', '20 seconds'],
  ['PT1M', '1 minute'],
  ['PT5M', '5 minutes'],
  ['PT30M', '30 minutes'],
  ['PT1H', '1 hour'],
  ['PT6H', '6 hours'],
  ['PT12H', '12 hours'],
  ['P1D', '1 day'],
  ['P3D', '3 days'],
  ['P7D', '7 days'],
  ['P14D', '14 days'],
  ['P30D', '30 days'],
  ['P90D', '3 months'],
  ['P365D', '1 year'],
]

/** The spans with others around them: “for ever” last, any other first. From tells the shortest that makes sense. */
export const spansFor = (extra: [string, string][], from = 'PT1H'): [string, string][] => [
  ...extra.filter(([k]) => k !== 'forever'),
  ...spans.slice(spans.findIndex(([k]) => k === from)),
  ...extra.filter(([k]) => k === 'forever'),
]
