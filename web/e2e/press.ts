import { expect, type Page } from '@playwright/test'

/** Counts what is pressed in a page with the mouse, over all it goes to. */
export const countPresses = (page: Page) =>
  page.addInitScript(() => {
    if (window === window.top)
      addEventListener('pointerdown', () => sessionStorage.setItem('pressed', String(Number(sessionStorage.getItem('pressed') ?? 0) + 1)), true)
  })

/** Expects that there were presses, and no more than so many. */
export async function pressedWithin(page: Page, most: number, least = 1) {
  const n = Number(await page.evaluate(() => sessionStorage.getItem('pressed') ?? '0'))
  expect(n, `${n} presses`).toBeLessThanOrEqual(most)
  expect(n).toBeGreaterThanOrEqual(least)
}
