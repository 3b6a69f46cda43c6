import { Tab, TabGroup, TabList } from '@headlessui/react'

interface Props<V extends string> {
  /** Of the whole row, for who hears the page. */
  label: string
  tabs: readonly { value: V; text: string }[]
  value: V
  onChange: (value: V) => void
}

/** One of several views of the same thing. */
export function Tabs<V extends string>({ label, tabs, value, onChange }: Props<V>) {
  return (
    <TabGroup selectedIndex={tabs.findIndex(t => t.value === value)} onChange={index => onChange(tabs[index].value)} manual>
      <TabList aria-label={label} className="flex shrink-0 gap-4">
        {tabs.map(t => (
          <Tab
            key={t.value}
            className="border-b-2 border-transparent px-1 pb-1 whitespace-nowrap text-quiet hover:text-ink data-selected:border-ink data-selected:font-medium data-selected:text-ink"
          >
            {t.text}
          </Tab>
        ))}
      </TabList>
    </TabGroup>
  )
}
