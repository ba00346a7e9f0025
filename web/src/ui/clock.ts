/** An hour of the day as a clock shows it. */
export const clock = (hour: number) =>
  `${String(Math.floor(hour + 1 / 120) % 24).padStart(2, '0')}:${String(Math.round((hour % 1) * 60) % 60).padStart(2, '0')}`
