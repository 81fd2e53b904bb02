import type { Rule } from '../../kinds/reach'
import type { Rehearsal } from '../../kinds/studio'
import { counted } from '../parts/words/say'

const day = 86_400_000

/**
 * How many visitors a piece reaches in how many days, by the rehearsal; without recorded
 * visits, how many conditions it has. While older visits are still being read the days
 * are those that are there.
 */
export function reachLine(rule: Rule, rehearsal?: Pick<Rehearsal, 'page_views' | 'visitors_shown' | 'days' | 'since'>, now = Date.now()): string {
  if (rehearsal?.page_views) {
    const days = rehearsal.since ? Math.min(rehearsal.days, Math.max(1, Math.round((now - Date.parse(rehearsal.since)) / day))) : rehearsal.days
    return `${counted(rehearsal.visitors_shown, 'visitor')} / ${days} d`
  }
  const n = conditions(rule)
  return n ? counted(n, 'condition') : 'everyone, on arrival'
}

const conditions = (rule: Rule): number => {
  const sum = (rules: Rule[]) => rules.reduce((n, r) => n + conditions(r), 0)
  return 'all' in rule ? sum(rule.all) : 'any' in rule ? sum(rule.any) : 'not' in rule ? conditions(rule.not) : 1
}
