import classes from './Head.module.css'

type Props = {
  /** Sets the width in characters; undefined for that of the content. */
  onWidth: (width: number) => void
  onFit: () => void
}

/** The right edge of a heading: dragged it sets the width of its column, a double click fits it. */
export function WidthGrip({ onWidth, onFit }: Props) {
  const drag = (e: React.PointerEvent<HTMLSpanElement>) => {
    const grip = e.currentTarget
    const heading = grip.parentElement!
    const character = charactersOf(heading, 10) / 10
    const from = e.clientX
    const before = heading.getBoundingClientRect().width
    grip.setPointerCapture(e.pointerId)
    const move = (m: PointerEvent) => onWidth((before + m.clientX - from) / character)
    const end = () => {
      grip.removeEventListener('pointermove', move)
      grip.removeEventListener('lostpointercapture', end)
    }
    grip.addEventListener('pointermove', move)
    grip.addEventListener('lostpointercapture', end)
  }
  // Who has no pointer sets widths in the column's menu.
  return <span aria-hidden className={classes.grip} onPointerDown={drag} onDoubleClick={onFit} data-grip />
}

/** How many pixels so many characters are wide within an element. */
function charactersOf(within: HTMLElement, count: number) {
  const probe = document.createElement('span')
  probe.style.cssText = `position: absolute; width: ${count}ch`
  within.append(probe)
  const { width } = probe.getBoundingClientRect()
  probe.remove()
  return width
}
