import type { Font } from '../../kinds/style'

/** The fonts to choose from. */
export const fonts: (readonly [Font, string])[] = [
  ['@text', 'Style kit, text'],
  ['@heading', 'Style kit, headings'],
  ['@page', 'The page’s own font'],
  ['sans', 'Plain sans'],
  ['serif', 'Plain serif'],
  ['bricolage', 'Bricolage'],
  ['instrument', 'Instrument'],
  ['outfit', 'Outfit'],
  ['work', 'Work Sans'],
  ['karla', 'Karla'],
  ['nunito', 'Nunito'],
  ['rubik', 'Rubik'],
  ['grotesk', 'Space Grotesk'],
  ['fraunces', 'Fraunces'],
  ['lora', 'Lora'],
  ['playfair', 'Playfair'],
  ['source_serif', 'Source Serif'],
  ['bitter', 'Bitter'],
  ['caveat', 'Caveat'],
]
