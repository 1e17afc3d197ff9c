package lexicon

import "strings"

// Negators is the name of the built-in term list.
const Negators = "negators"

// negators are kept off the stop lists: they turn the meaning of what stands beside them.
var negators = map[string][]string{
	"en": strings.Fields("not no never none nobody nothing nowhere neither nor without hardly barely scarcely"),
	"de": strings.Fields("nicht nein nie niemals nirgends kein keine keinen keiner keinem keines ohne kaum nichts niemand weder"),
	"fr": strings.Fields("ne pas non jamais aucun aucune sans rien personne ni guère nulle"),
	"es": strings.Fields("no nunca jamás ni ningún ninguno ninguna nada nadie sin tampoco apenas"),
	"it": strings.Fields("non no mai né nessun nessuno nessuna niente nulla senza neanche nemmeno neppure appena"),
	"nl": strings.Fields("niet nee nooit geen niets niks niemand nergens zonder noch nauwelijks"),
	"pt": strings.Fields("não nunca jamais nem nenhum nenhuma nada ninguém sem tampouco"),
}

// baseStopWords are words that say nothing by themselves: articles, pronouns, prepositions, conjunctions, auxiliaries
// and what is left of elisions. They are listed in all their forms; negators are not among them.
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
	"de": strings.Fields(`ab aber als also am an ander andere anderen anderer anderes auch auf aus außer bei beim bevor bin bis
bist da dabei dadurch dafür dagegen daher damit danach dann daran darauf darum das dass davon dazu dein deine deinem
deinen deiner dem den denen denn der deren des dessen dich die dies diese diesem diesen dieser dieses dir doch dort du
durch dürfen darf durfte ein eine einem einen einer eines einige einigen einmal er es etwas euch euer eure für gegen
gewesen hab habe haben hast hat hatte hatten hätte hätten hier hin hinter ich ihm ihn ihnen ihr ihre ihrem ihren ihrer im
immer in indem ins ist ja je jede jedem jeden jeder jedes jene jetzt kann kannst können könnte könnten konnte man manche
mehr mein meine meinem meinen meiner mich mir mit möchte mögen muss müssen müsste musste nach nachdem neben noch nun nur
ob oder schon sehr sein seine seinem seinen seiner seit selbst sich sie sind so sogar solche soll sollen sollte sollten
sondern sonst soweit sowie trotz über um und uns unser unsere unserem unseren unter vom von vor während war waren warst
was weg weil weiter welche welchem welchen welcher welches wenn wer werde werden wie wieder will wir wird wirst wo wollen
wollte worden wurde wurden würde würden zu zum zur zwar zwischen`),
	"fr": strings.Fields(`a à afin ai ait alors après as au auquel aura aurait aussi autre autres aux avaient avais avait avant
avec avez avoir avons ayant bien c car ce ceci cela celle celles celui cependant ces cet cette ceux chaque chez comme
comment d dans de depuis des dès donc dont du durant elle elles en encore entre es est et étaient étais était étant été
être eu eux fait faire fois font furent fut grâce hors ici il ils j je jusqu jusque l la laquelle le lequel les lesquels
leur leurs lors lorsqu lorsque lui là m ma mais malgré me même mêmes mes mien moi moins mon n nos notre nous on ont or ou
où par parce parmi pendant peu peut peuvent plus plusieurs plutôt pour pourquoi pourrait pourtant près puis puisqu puisque
qu quand que quel quelle quelles quelque quelques quels qui quoi quoique s sa selon sera serait seront ses si sien soi
soient sois soit sommes son sont sous suis sur t ta tandis te tel telle telles tels tes toi ton toujours tous tout toute
toutes très trop tu un une vers voici voilà vos votre vous vu y`),
	"es": strings.Fields(`a además al algo alguien algún alguna algunas alguno algunos ambos ante antes aquel aquella aquellas
aquello aquellos aquí así aun aún aunque bajo bien cada casi como cómo con conmigo contigo contra cosa cosas cual cuál
cuales cualquier cuando cuándo cuanto de debe deben del dentro desde después donde dónde dos durante e el él ella ellas
ello ellos en encima entonces entre era eran eres es esa esas ese eso esos esta está estaba estaban estado estamos están
estar estas este esto estos estoy fue fuera fueron fui ha había habían habido hace hacen hacer hacia han has hasta hay he
hecho hemos hubo igual incluso la las le les lo los luego más me mediante menos mi mí mientras mis mismo misma mismos
mucha muchas mucho muchos muy nos nosotros nuestra nuestras nuestro nuestros o os otra otras otro otros para parte pero
poco pocos podemos poder podría por porque pues puede pueden puedo que qué quien quién quienes se sea según ser será
sería si sí sido siempre sino sobre sois solamente solo sólo somos son soy su sus suyo también tan tanto te tener tenía
tenían tiene tienen toda todas todavía todo todos tras tu tú tus tuve tuvo u un una unas uno unos usted ustedes vez veces
y ya yo`),
	"it": strings.Fields(`a abbia abbiamo ad agli ai al alcuni alcune all alla alle allo allora altra altre altri altro anche
ancora avendo aver avere aveva avevano avevo avrebbe avuto c che chi ci ciò coi col come con contro cosa così cui d da
dagli dai dal dall dalla dalle dallo degli dei del dell della delle dello dentro di dopo dopo dove dovrebbe due dunque e
è ed era erano ero essendo esser essere fa faccio fanno far fare fatto fin fino fosse fra fu fuori già gli ha hai hanno
ho i il in infatti inoltre io l la là le lei li lì lo loro lui m ma me mentre meno mi mia mie miei mio molta molte molti
molto n ne nei negli nel nell nella nelle nello noi nostra nostre nostri nostro o ogni oltre oppure or ora per perché
però più po poco poi possiamo posso possono potrebbe prima proprio può pure qua qualche qualcosa qualcuno quale quali
quando quanta quanto quasi quel quell quella quelle quelli quello quest questa queste questi questo qui quindi s se sé
sei sempre senso si sì sia siamo siano siete sono sopra sotto sta stai stanno stare stata state stati stato stesso stessa
su sua sue sugli sui sul sull sulla sulle sullo suo suoi t tale tali tanta tante tanti tanto te ti tra tranne troppo tu
tua tue tuo tuoi tutta tutte tutti tutto un una uno v verso vi voi volta volte vostra vostre vostri vostro`),
	"nl": strings.Fields(`aan achter af al alle alleen als altijd ander andere anders ben bent bij binnen boven daar daarbij
daarom daarna dan dat de deze die dit doch door dus een eens eerst eigenlijk elk elke en er erg etc even gaat gedurende
geweest gewoon had hadden heb hebben hebt heel heeft hem hen het hier hierbij hij hoe hun iemand iets ik in is ja je jij
jou jouw jullie kan kon konden kunnen kunt laat langs later maar mag me meer meest mij mijn minder moest moesten moet
moeten mogelijk mogen na naar naast nog nu of om omdat omhoog onder ons onze ook op opnieuw over pas per rond s sinds
sommige steeds t te tegen ten terwijl tijdens toch toen tot totdat tussen u uit uw vaak van vanaf vanuit veel via vooral
voor voordat waar waarom wanneer want waren was wat we weer wel welk welke werd werden wie wij wil wilde worden wordt zal
ze zei zelf zich zij zijn zo zoals zou zouden zullen`),
	"pt": strings.Fields(`a à agora ainda além alguém algum alguma algumas alguns algo ante antes ao aos apenas após aquela
aquelas aquele aqueles aquilo aqui as às assim até através bem cada coisa coisas com como contra cujo da daquele das de
dela delas dele deles depois desde dessa desse desta deste deve devem devia disso disto do dois dos durante e é ela elas
ele eles em embora enquanto entre era eram essa essas esse esses esta está estamos estão estar estas estava estavam este
esteja estes esteve estive estou eu foi fomos for fora foram fosse há havia isso isto já la lá lhe lhes lo logo mais mas
me mesma mesmas mesmo mesmos meu meus mim minha minhas muita muitas muito muitos na nas nela nele nessa nesse nesta neste
no nos nós nossa nossas nosso nossos num numa o onde os ou outra outras outro outros para pela pelas pelo pelos per perante
pode podem poderia pois por porém porque pouco pouca poucos pra qual quais qualquer quando quanto quase que quê quem se
seja sejam sempre sendo ser será seria seu seus são si sido só sob sobre sou sua suas tal também tanta tantas tanto te tem
tenha tinha tinham toda todas todo todos tu tua tuas tudo um uma umas uns vez vezes você vocês vos`),
}

// endings are what may stand after a word to make another of its family, by language, beyond what stemmers take off.
var endings = map[string][]string{
	"en": strings.Fields(
		"er ers or est ly y ness less ful able ation ations ment ments ity al ish age dom ship ous ive ee ance ence",
	),
	"de": strings.Fields("er e in innen ung ungen heit keit lich ig bar los schaft isch chen voll"),
	"fr": strings.Fields("eur euse eux té ment age ance ence able ible ien ique ation ette ier ière"),
	"es": strings.Fields("ero era idad mente able ible oso osa ción ito ita miento anza ista ador dor"),
	"it": strings.Fields("ità mente abile ibile oso osa zione ino ina mento ista iere tore ezza"),
	"nl": strings.Fields("er ers ing ingen heid lijk ig baar loos schap je jes isch"),
	"pt": strings.Fields("eiro eira dade mente ável ível oso osa ção inho inha mento ista dor eza"),
}

// Bases are the words that a word may be made of by an ending: with a silent e or a doubled letter restored, y for i. At
// least four letters are left.
func Bases(language, word string) []string {
	var out []string
	for _, e := range endings[language] {
		root, ok := strings.CutSuffix(word, e)
		if !ok || len(root) < 4 {
			continue
		}
		out = append(out, root, root+"e")
		if n := len(root); root[n-1] == root[n-2] {
			out = append(out, root[:n-1])
		}
		if root[len(root)-1] == 'i' {
			out = append(out, root[:len(root)-1]+"y")
		}
	}
	return out
}

// Common says whether a word is known to be one of the language: a stop word, a negator, or of an irregular verb or noun.
func Common(language, word string) bool {
	return functionWords[language][word] || irregularWords[language][word]
}

// irregularWords are all that stand in the tables of irregular forms.
var irregularWords = func() map[string]map[string]bool {
	out := map[string]map[string]bool{}
	for language, table := range irregular {
		out[language] = map[string]bool{}
		for form, base := range table {
			out[language][form], out[language][base] = true, true
		}
	}
	return out
}()
