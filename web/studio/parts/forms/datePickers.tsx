import Box from '@mui/material/Box'
import { AdapterDayjs } from '@mui/x-date-pickers/AdapterDayjs'
import { DatePicker } from '@mui/x-date-pickers/DatePicker'
import { DateTimePicker } from '@mui/x-date-pickers/DateTimePicker'
import { LocalizationProvider } from '@mui/x-date-pickers/LocalizationProvider'
import dayjs from 'dayjs'
import 'dayjs/locale/en-gb'
import { useSite } from '../../server/queries'

interface Props {
  label: string
  /** On the wall clock of the site, or of whoever Zone says: 2026-12-24T18:00. */
  value: string
  onChange(value: string): void
  wrong?: boolean
  /** Whose clock it is; left out: the site's. */
  zone?: string
  /** The label is beside it already. */
  bare?: boolean
}

/** A day and a time on a wall clock, which it names. */
export function DateTimeField({ label, value, onChange, wrong, zone, bare }: Props) {
  const site = useSite()
  return (
    <LocalizationProvider dateAdapter={AdapterDayjs} adapterLocale="en-gb">
      <Box component="span" role="group" aria-label={label} sx={{ display: 'inline-block', width: '100%', maxWidth: 260 }}>
        <DateTimePicker
          value={value ? dayjs(value) : null}
          ampm={false}
          onChange={at => at?.isValid() && onChange(at.format('YYYY-MM-DDTHH:mm'))}
          label={bare ? undefined : label}
          slotProps={{
            textField: { size: 'small', fullWidth: true, error: wrong, helperText: zone ?? `Time in ${site.zone}` },
          }}
        />
      </Box>
    </LocalizationProvider>
  )
}

/** A day on the site's calendar: 2026-12-24, or empty. */
export function DateField({ label, value, onChange, bare }: Pick<Props, 'label' | 'value' | 'onChange' | 'bare'>) {
  return (
    <LocalizationProvider dateAdapter={AdapterDayjs} adapterLocale="en-gb">
      <Box component="span" role="group" aria-label={label}>
        <DatePicker
          value={value ? dayjs(value) : null}
          onChange={at => (at ? at.isValid() && at.year() > 1970 && onChange(at.format('YYYY-MM-DD')) : onChange(''))}
          label={bare ? undefined : label}
          slotProps={{ textField: { size: 'small', sx: { width: 165 } }, field: { clearable: !bare } }}
        />
      </Box>
    </LocalizationProvider>
  )
}
