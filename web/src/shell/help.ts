/** The short help of each view: what it is for, and what to do, in order. */
export const HELP: Record<string, { title: string; text: string }> = {
  crossings: {
    title: "Crossings",
    text: "A crossing is one move from an old site to a new one. Paste the old site's address; it is asked at once. Give the crossing a name and make it. The bar of each crossing says how far it is: pale is planned, solid is proven by a check.",
  },
  manifest: {
    title: "Manifest",
    text: "The account of the whole crossing. “Next” lists what is open in the order of the work, each with what it would settle; go from top to bottom. You are done when nothing is unaccounted and nothing is merely planned.",
  },
  survey: {
    title: "Survey · crawl",
    text: "Set scope and manners first (who allowed the copy, the host the new site grows on); soundings tell what the site is like before anything is counted. Then start the survey; it can pause. Kept out lists what was met and not fetched, with ways to let it in; lists and logs takes what the owner has beside the site. Every address found is a row; the tree at the left narrows the list to a folder; Enter opens an address with what was captured and who links to it. Decide over chosen rows at the foot of the list. The new site is surveyed in the same way (old site / new site beside the title): its list, tree and facts stand on the new shore, and nothing of it is in the account.",
  },
  sort: {
    title: "Sort · content types",
    text: "Pages that are made alike stand together under By make, each group drawn from its structure, with the simplest rule that tells it apart: N makes a kind of it, [ and ] give fewer and more groups. Under Kinds their rules are written by hand; the count beside a rule is live. The first kind whose rule holds has the page. Then sort all. What no rule catches stands under Unsorted, what two would take under Fitting twice; all pages with their kinds under Pages.",
  },
  lift: {
    title: "Lift · extraction",
    text: "Choose a kind, then a field. Write how it is read (or click the thing in the old page); its value on this page is shown as you type. Try it on five pages, save, then lift all. The grid below shows every page against every field; click a cell to go to that page.",
  },
  refit: {
    title: "Refit · markup",
    text: "Refit all bodies, then look at those that lost words: they come first. Struck-out words stand in no block. Name a step for what should go (share boxes, cookie bars) and refit again, until no word is unaccounted. Under Steps each of them is read once, with the pages where it differs or is missing; a step may also say what something only this site has is to be read as. Under Constructs it is chosen how Markdown says what it has no mark for.",
  },
  route: {
    title: "Route · redirects",
    text: "Open addresses are grouped by shape, the weightiest first. Choose one and lead it somewhere, retire it, or write a rule for its whole shape; what a rule would catch is shown before it is saved. Write the map out for your server, then check: only a check makes a fate proven.",
  },
  media: {
    title: "Media · files",
    text: "Every file of the old site once, whatever its addresses: what it is by its content, where it is shown and with which text, what is wrong with it, where it goes. The chips narrow the list to pictures without a text, twins, files of other hosts. What could not be had stands under Not had, and is asked for again one by one.",
  },
  land: {
    title: "Land · import",
    text: "Name the target and what each kind is called there. A dry run says what would be created, changed or refused. Land one item as a trial, look at it, then land all. Landing again sends only what changed.",
  },
};
