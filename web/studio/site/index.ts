// The screens of a site's settings, which are loaded together.

export { Codes } from './Codes'
export { Library } from './Library'
export { Site } from './Site'
export { Style } from './Style'
