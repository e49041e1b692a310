import HelpOutlineOutlined from '@mui/icons-material/HelpOutlineOutlined'
import CloseOutlined from '@mui/icons-material/CloseOutlined'
import ExpandMoreOutlined from '@mui/icons-material/ExpandMoreOutlined'
import { Box, ButtonBase, IconButton, Paper, Typography } from '@mui/material'
import type { Parameter } from '@tangle/core'
import { exampleOf, hasVariants, variantsOf, type Example, type Told } from '@tangle/recipes'
import { useCallback, useEffect, useMemo, useRef } from 'react'
import { shown } from '../fields/formula.ts'
import { useAct, useStore } from '../store/index.ts'
import { helpAsked } from '../store/session.ts'
import { helpedKind, type Helped } from './kinds.ts'
import { MovingPicture } from './MovingPicture.tsx'

/** Opens the help of a kind beside the panel that shows it. */
export function HelpButton(of: Helped) {
  const act = useAct()
  return (
    <IconButton
      size="small"
      aria-label={`Help on ${helpedKind(of)?.label ?? ''}`}
      aria-haspopup="dialog"
      onClick={() => act(helpAsked(of))}
    >
      <HelpOutlineOutlined sx={{ fontSize: 17 }} />
    </IconButton>
  )
}

/** Beside the panel, which can be used meanwhile: what the kind that was asked for does, moving, what goes wrong with it, and each of its values. */
export function HelpCard() {
  const act = useAct()
  const asked = useStore((state) => state.session.help)
  const kind = asked && helpedKind(asked)
  const card = useRef<HTMLDivElement>(null)
  const close = useCallback((): void => void act(helpAsked(null)), [act])
  const [sort, name] = [asked?.sort, asked?.kind]
  const example = useMemo(() => (sort && name ? exampleOf(sort, name) : null), [sort, name])
  // one value after another of the same help leaves the focus where it is
  useEffect(() => {
    if (!name) return
    card.current?.focus()
    const pressed = (event: KeyboardEvent): void => {
      if (event.key === 'Escape' && !event.defaultPrevented) close()
    }
    addEventListener('keydown', pressed)
    return () => removeEventListener('keydown', pressed)
  }, [sort, name, close])
  if (!asked || !kind) return null
  return (
    <Paper
      ref={card}
      role="dialog"
      aria-labelledby="help-title"
      tabIndex={-1}
      variant="outlined"
      sx={{
        position: 'fixed',
        top: 52,
        right: 328,
        width: 348,
        maxHeight: 'calc(100vh - 64px)',
        overflowY: 'auto',
        zIndex: 'modal',
        p: 2,
        '&:focus': { outline: 'none' },
      }}
    >
      <IconButton size="small" aria-label="Close the help" onClick={close} sx={{ float: 'right' }}>
        <CloseOutlined sx={{ fontSize: 16 }} />
      </IconButton>
      <Typography id="help-title" component="h2" sx={{ fontWeight: 600, fontSize: 15 }}>
        <span aria-hidden>{kind.glyph} </span>
        {kind.label}
      </Typography>
      <Typography sx={{ fontSize: 13 }}>{kind.help}</Typography>
      {example && <MovingPicture example={example} name="What it does, moving" />}
      <Title>When it goes wrong</Title>
      <Typography sx={{ fontSize: 13 }}>{kind.pitfall}</Typography>
      <Title>Its values</Title>
      <Box component="dl" sx={{ m: 0 }}>
        {Object.entries(kind.parameters).map(([name, parameter]) => (
          <Value
            key={name}
            parameter={parameter}
            example={example}
            of={{ ...asked, parameter: name }}
            isOpen={asked.parameter === name}
          />
        ))}
      </Box>
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 1 }}>
        F1 in a field shows its value here.
      </Typography>
      {kind.source && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 1 }}>Source: {kind.source}</Typography>
      )}
    </Paper>
  )
}

const Title = ({ children }: { children: string }) => (
  <Typography component="h3" sx={{ fontSize: 12, fontWeight: 600, color: 'text.secondary', mt: 1 }}>
    {children}
  </Typography>
)

interface ValueProps {
  parameter: Parameter
  of: Told
  example: Example | null
  isOpen: boolean
}

/** What a value is; asked for, what less and more of it does, or each of its choices. */
function Value({ parameter, of, example, isOpen }: ValueProps) {
  const act = useAct()
  const { sort, kind } = of
  const title = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (isOpen) title.current?.scrollIntoView({ block: 'nearest' })
  }, [isOpen])
  const varied = example && hasVariants(example, of) ? example : null
  const usual =
    parameter.type === 'number' && ` Usually ${`${shown(parameter.default)} ${parameter.unit}`.trim()}.`
  return (
    <Box sx={{ mt: 0.5 }}>
      <Box component="dt" ref={title} sx={{ fontSize: 13, fontWeight: 600 }}>
        {!varied ? (
          parameter.label
        ) : (
          <ButtonBase
            aria-expanded={isOpen}
            onClick={() => act(helpAsked(isOpen ? { sort, kind } : of))}
            sx={{ fontSize: 'inherit', fontWeight: 'inherit', fontFamily: 'inherit' }}
          >
            {parameter.label}
            <ExpandMoreOutlined sx={{ fontSize: 16, transform: isOpen ? 'rotate(180deg)' : 'none' }} />
          </ButtonBase>
        )}
      </Box>
      <Box component="dd" sx={{ m: 0, fontSize: 12.5, color: 'text.secondary' }}>
        {parameter.help}.{usual}
        {isOpen && varied && <Variants {...of} example={varied} />}
      </Box>
    </Box>
  )
}

function Variants({ example, sort, kind, parameter }: Told & { example: Example }) {
  const variants = useMemo(
    () => variantsOf(example, { sort, kind, parameter }),
    [example, sort, kind, parameter],
  )
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1 }}>
      {variants.map((variant) => (
        <Box key={variant.label} component="figure" sx={{ m: 0 }}>
          <MovingPicture example={variant.example} name={`With ${variant.label}, moving`} width={152} />
          <Box component="figcaption" sx={{ mt: -0.5, mb: 0.5 }}>
            {variant.label}
          </Box>
        </Box>
      ))}
    </Box>
  )
}
