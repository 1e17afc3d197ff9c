package demo

// ReportText begins the report of the demo study.
const ReportText = `# In short

After the crossing we asked passengers of Larkmoor Ferries what *one thing* we should change, and what they enjoyed, in spring and in
autumn. This is what about six thousand of them wrote, coded by rules that stand on the last pages.

- Commuters speak of **time**: boats that are late, links that are missed.
- Tourists speak of **food and drink** and of finding the right lane.
- What people enjoy hardly changes from spring to autumn: being at sea.
`
