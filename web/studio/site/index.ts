// The screens of a site's settings, which are loaded together.
export { Library } from '../library/Library'
export { Codes } from './Codes'
export { Site } from './Site'
export { Style } from './Style'
