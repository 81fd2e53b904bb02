import Box from '@mui/material/Box'
import { Title } from '../parts/look/Title'
import { Goals } from './Goals'
import { Connection } from './Health'
import { Install } from './Install'
import { Language } from './Language'
import { Limits } from './Limits'
import { NameAndDomains } from './NameAndDomains'
import { Recording } from './Recording'
import { SiteData } from './SiteData'
import { SitePage } from './SitePage'
import { Sources } from './Sources'
import { Team } from './Team'

/** What is set for the whole site, each thing with its state in a line: connecting it on the left, what is measured on the right. */
export function Site() {
  return (
    <SitePage wide>
      <Title of="Site settings" />
      <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'repeat(2, minmax(0, 1fr))' }, gap: '14px 18px', alignItems: 'start' }}>
        <Box sx={{ display: 'grid', gap: '14px' }}>
          <Install />
          <NameAndDomains />
          <Limits />
          <Language />
          <Connection />
        </Box>
        <Box sx={{ display: 'grid', gap: '14px' }}>
          <Goals />
          <Team />
          <Sources />
          <Recording />
          <SiteData />
        </Box>
      </Box>
    </SitePage>
  )
}
