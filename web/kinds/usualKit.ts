// Written by make kinds from core/style.

import type { Kit } from './style'

/** The style kit of what is drawn without a site's own. */
export const usualKit: Kit = {
  "colors": [
    {
      "id": "background",
      "name": "Paper",
      "value": "#fffdf9"
    },
    {
      "id": "ink",
      "name": "Ink",
      "value": "#2b2430"
    },
    {
      "id": "accent",
      "name": "Accent",
      "value": "#1f4f4e"
    },
    {
      "id": "accent_ink",
      "name": "On accent",
      "value": "#ffffff"
    },
    {
      "id": "soft",
      "name": "Wash",
      "value": "#efe7da"
    }
  ],
  "text": "instrument",
  "heading": "bricolage",
  "corners": 12,
  "button": {
    "corners": 10,
    "weight": 650
  },
  "field": {
    "corners": 8
  }
}
