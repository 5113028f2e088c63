/** Light and dark themes: the same tokens for our CSS (tokens.css) and for Ant Design. */
import { theme, type ThemeConfig } from 'antd'
import { create } from 'zustand'

export type Theme = 'light' | 'dark'
export type ThemeChoice = Theme | 'system'

const system = window.matchMedia('(prefers-color-scheme: dark)')
const shownFor = (choice: ThemeChoice): Theme =>
  choice === 'system' ? (system.matches ? 'dark' : 'light') : choice
const stored = localStorage.getItem('theme')
const first: ThemeChoice = stored === 'light' || stored === 'dark' ? stored : 'system'

interface ThemeState {
  choice: ThemeChoice
  shown: Theme
  choose(choice: ThemeChoice): void
}

export const useTheme = create<ThemeState>((set, get) => {
  system.addEventListener('change', () => set({ shown: shownFor(get().choice) }))
  return {
    choice: first,
    shown: shownFor(first),
    choose: (choice) => {
      localStorage.setItem('theme', choice)
      set({ choice, shown: shownFor(choice) })
    },
  }
})

const COLOURS = {
  light: {
    cobalt: '#1e3f94',
    ground: '#f3efe6',
    paper: '#fffdf8',
    line: '#ddd5c5',
    ink: '#1f232b',
    muted: '#5f646d',
    brick: '#b02a1e',
    ochre: '#9a6300',
    moss: '#3a7752',
    pale: '#e6ebf7',
  },
  dark: {
    cobalt: '#7f9ff0',
    ground: '#191c21',
    paper: '#22262c',
    line: '#3b4048',
    ink: '#ece8de',
    muted: '#a7abb3',
    brick: '#ff8f82',
    ochre: '#e9b65a',
    moss: '#7fc69a',
    pale: '#2b3552',
  },
} as const

const wantsLessMotion = () => window.matchMedia('(prefers-reduced-motion: reduce)').matches

export function antdTheme(shown: Theme): ThemeConfig {
  const colour = COLOURS[shown]
  return {
    algorithm: shown === 'dark' ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: shown === 'dark' ? '#3d5fc0' : colour.cobalt,
      colorLink: colour.cobalt,
      colorInfo: colour.cobalt,
      colorError: colour.brick,
      colorWarning: colour.ochre,
      colorSuccess: colour.moss,
      colorBgLayout: colour.ground,
      colorBgContainer: colour.paper,
      colorBgElevated: colour.paper,
      colorBorder: colour.line,
      colorBorderSecondary: colour.line,
      colorText: colour.ink,
      colorTextSecondary: colour.muted,
      colorTextPlaceholder: colour.muted,
      controlItemBgActive: colour.pale,
      fontFamily: 'var(--sans)',
      fontFamilyCode: 'var(--mono)',
      fontSize: 14,
      borderRadius: 5,
      boxShadow: '0 6px 24px rgb(0 0 0 / .14)',
      boxShadowSecondary: '0 6px 24px rgb(0 0 0 / .14)',
      // With reduced motion, nothing moves. Ant Design must know, because its components wait for motions to end.
      motion: !wantsLessMotion(),
      ...(wantsLessMotion()
        ? { motionDurationFast: '0s', motionDurationMid: '0s', motionDurationSlow: '0s' }
        : { motionDurationMid: '0.1s', motionDurationSlow: '0.15s' }),
    },
    components: {
      Button: {
        fontWeight: 650,
        primaryShadow: 'none',
        defaultShadow: 'none',
        contentFontSize: 13.5,
        contentFontSizeLG: 13.5,
        paddingInlineLG: 14,
      },
      Table: {
        headerBg: 'transparent',
        headerSplitColor: 'transparent',
        headerColor: colour.muted,
        cellPaddingBlockSM: 7,
      },
      Select: { optionSelectedBg: colour.pale },
    },
  }
}
