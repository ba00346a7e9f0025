import { Button as HeadlessButton } from '@headlessui/react'
import type { ComponentProps } from 'react'

const LOOKS = {
  main: 'bg-felt text-on-felt border-felt hover:brightness-110',
  plain: 'bg-transparent text-ink border-ink-2 hover:bg-floor',
  warm: 'bg-change text-on-change border-change hover:brightness-110',
  quiet: 'bg-transparent text-ink border-transparent hover:bg-floor',
}

type Props = ComponentProps<'button'> & { look?: keyof typeof LOOKS; small?: boolean }

export function Button({ look = 'plain', small = false, className = '', ...rest }: Props) {
  return (
    <HeadlessButton
      {...rest}
      className={`inline-flex shrink-0 items-center justify-center gap-1.5 rounded-full border font-semibold whitespace-nowrap transition disabled:cursor-not-allowed disabled:opacity-45 ${small ? 'min-h-8 px-3 text-small' : 'min-h-9.5 px-4 text-note'} ${LOOKS[look]} ${className}`}
    />
  )
}
