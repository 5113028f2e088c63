/** The button of a notification that takes back what was just done. */
import { Button } from 'antd'

export const undoButton = (undo: () => void) => (
  <Button size="small" onClick={undo}>
    Undo
  </Button>
)
