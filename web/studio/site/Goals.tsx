import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useFieldArray, useWatch } from 'react-hook-form'
import type { Goal } from '../../kinds/settings'
import { ChoiceIn, NumberIn, TextIn } from '../parts/forms/formFields'
import { paper } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { outdated, useSite } from '../server/queries'
import { Setting } from './Setting'
import { useSettingsForm } from './useSiteForm'

const newID = () => Math.random().toString(36).slice(2, 10)
const mostGoals = 10

/** What the site wants of visitors in the end. */
export function Goals() {
  const inForce = useSite().settings.goals
  const { saved, standing, form } = useSettingsForm('goals', {
    from: s => ({ goals: s.goals, currency: s.currency }),
    to: values => values,
    done(site) {
      for (const key of ['results', 'split', 'alerts']) outdated(key, site)
    },
  })
  const { control } = form
  const list = useFieldArray({ control, name: 'goals', keyName: 'key' })
  const goals = useWatch({ control, name: 'goals' })
  const wrong = form.formState.errors.goals?.message
  return (
    <Setting
      id="goals"
      name="Goals"
      state={
        inForce.length
          ? `${counted(inForce.length, 'goal')}: ${inForce.map(g => g.name).join(', ')}.`
          : 'None yet: name what you want of visitors, such as an order, to see what pieces bring.'
      }
      well={inForce.length ? true : undefined}
      form={{ standing, saved }}
    >
      <Typography color="textSecondary">
        A goal is what you want of visitors in the end, such as an order. It counts for each piece that the visitor saw in the days before.
      </Typography>
      {list.fields.map((field, i) => (
        <Box
          key={field.key}
          data-goal={field.id}
          sx={{
            display: 'grid',
            gridTemplateColumns: '1fr 1fr',
            gap: 1.25,
            alignItems: 'start',
            p: '12px',
            border: `1px solid ${paper.line}`,
            borderRadius: '8px',
          }}
        >
          <TextIn control={control} name={`goals.${i}.name`} label="Name" />
          <ChoiceIn
            control={control}
            name={`goals.${i}.kind`}
            label="Reached by"
            options={[
              ['page', 'A page'],
              ['event', 'An event'],
            ]}
          />
          <TextIn
            control={control}
            name={`goals.${i}.about`}
            label={goals[i]?.kind === 'event' ? 'Event name' : 'Path'}
            placeholder={goals[i]?.kind === 'event' ? 'order' : '/thanks'}
            help={goals[i]?.kind === 'event' ? 'gobbet.push({ event: … })' : '* stands for any letters'}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <TextIn
            control={control}
            name={`goals.${i}.value`}
            label="Value from data"
            placeholder="order_total"
            help="Empty: no value"
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <NumberIn control={control} name={`goals.${i}.days`} label="Counts for, in days" min={1} max={365} />
          <Button onClick={() => list.remove(i)} aria-label={`Delete the goal ${goals[i]?.name ?? ''}`} sx={{ justifySelf: 'end' }}>
            Delete
          </Button>
        </Box>
      ))}
      <Box>
        <Button
          variant="outlined"
          size="small"
          disabled={list.fields.length >= mostGoals}
          onClick={() => list.append({ id: newID(), name: 'Order', kind: 'page', about: '/thanks', value: '', days: 14 } satisfies Goal)}
        >
          Add a goal
        </Button>
        {wrong && <Typography color="error">{wrong}</Typography>}
      </Box>
      <TextIn
        control={control}
        name="currency"
        label="Currency"
        placeholder="EUR"
        tidy={text => text.toUpperCase().slice(0, 3)}
        help="Of all values; amounts are not converted."
        slotProps={{ inputLabel: { shrink: true } }}
      />
    </Setting>
  )
}
