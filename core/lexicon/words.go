package lexicon

import "strings"

// Negators is the name of the built-in term list.
const Negators = "negators"

// negators are kept off the stop lists: they turn the meaning of what stands beside them.
var negators = map[string][]string{
	"en": strings.Fields("not no never none nobody nothing nowhere neither nor without hardly barely scarcely"),
	"de": strings.Fields("nicht nein nie niemals kein keine keinen keiner keinem ohne kaum nichts niemand"),
	"fr": strings.Fields("ne pas non jamais aucun aucune sans rien personne ni"),
}

// baseStopWords are words that say nothing by themselves. They are listed in all their forms.
var baseStopWords = map[string][]string{
	"en": strings.Fields(`a about above after again against all also although always am an and another any are as at be
because been before being below between both but by came can come could did do does doing done down during each either
else ever every few for from further get gets getting go goes going got had has have having he her here hers herself him
himself his how i if in into is it its itself just less let like lot lots made make makes making many may maybe me might
mine more most much must my myself need needs of off on once one only onto or other others our ours ourselves out over
per perhaps put quite rather really same shall she should since so some something sometimes such than that the their
theirs them themselves then there these they thing things this those though through to too under until up upon us very
was we were what whatever when where whether which while who whom whose why will with within would yet you your yours
yourself yourselves s t d ll re ve`),
}

// irregular forms are stemmed as the form they belong to.
var irregular = map[string]map[string]string{"en": forms(`be: am is are was were been being
begin: began begun
break: broke broken
bring: brought
build: built
buy: bought
catch: caught
choose: chose chosen
come: came
do: did done does
drive: drove driven
eat: ate eaten
fall: fell fallen
feel: felt
find: found
forget: forgot forgotten
freeze: froze frozen
get: got gotten
give: gave given
go: went gone
hear: heard
hide: hid hidden
hold: held
keep: kept
know: knew known
leave: left
lose: lost
make: made
meet: met
pay: paid
ride: rode ridden
run: ran
say: said
see: saw seen
sell: sold
send: sent
sit: sat
sleep: slept
speak: spoke spoken
spend: spent
stand: stood
steal: stole stolen
swim: swam swum
take: took taken
teach: taught
tell: told
think: thought
throw: threw thrown
wake: woke woken
wear: wore worn
write: wrote written
child: children
foot: feet
man: men
woman: women
person: people
tooth: teeth
mouse: mice
knife: knives
life: lives
half: halves
shelf: shelves
bad: worse worst
good: better best
queue: queuing queueing queued`)}

func forms(lines string) map[string]string {
	m := map[string]string{}
	for line := range strings.Lines(lines) {
		base, others, _ := strings.Cut(line, ":")
		for _, w := range strings.Fields(others) {
			m[w] = base
		}
	}
	return m
}
