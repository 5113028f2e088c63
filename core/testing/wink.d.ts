/** The types of a library that ships none. */
declare module 'wink-naive-bayes-text-classifier' {
  interface Classifier {
    definePrepTasks(tasks: readonly ((text: string) => string[])[]): number
    defineConfig(config: { considerOnlyPresence: boolean; smoothingFactor: number }): boolean
    learn(text: string, label: string): boolean
    consolidate(): boolean
    /** Base-2 logarithms of the odds, by label. */
    computeOdds(text: string): [label: string, odds: number][]
  }
  export default function classifier(): Classifier
}
