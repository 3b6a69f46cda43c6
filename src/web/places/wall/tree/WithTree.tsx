import type { ReactNode } from 'react'
import { Panel, PanelGroup, PanelResizeHandle } from 'react-resizable-panels'

/** The wall, with the tree beside it where it is wanted; how wide each is, is remembered. */
export const WithTree = ({ tree, children }: { tree: ReactNode; children: ReactNode }) => (
  <PanelGroup direction="horizontal" autoSaveId="muscovite.tree" className="min-h-0 flex-1">
    {tree && (
      <>
        <Panel id="tree" order={1} defaultSize={20} minSize={12} maxSize={45}>
          {tree}
        </Panel>
        <PanelResizeHandle
          aria-label="Width of the tree"
          className="w-2 outline-offset-[-2px] before:mx-auto before:block before:h-full before:w-px before:bg-line hover:before:bg-ink focus-visible:outline-2"
        />
      </>
    )}
    <Panel id="wall" order={2} defaultSize={tree ? 80 : 100} minSize={50}>
      {children}
    </Panel>
  </PanelGroup>
)
