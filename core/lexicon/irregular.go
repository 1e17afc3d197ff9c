package lexicon

import (
	"strings"

	"aftermath/core/text"
)

// irregular forms are stemmed as the form they belong to. Endings are the stemmers' work; here stands what no ending tells.
var irregular = map[string]map[string]string{
	"en": forms(`be: am is are was were been being
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
blow: blew blown
deal: dealt
draw: drew drawn
feed: fed
fly: flew flown
grow: grew grown
lead: led
lend: lent
mean: meant
ring: rang rung
rise: risen
shake: shook shaken
shut: shutting
sing: sang sung
sink: sank sunk
stick: stuck
sweep: swept
understand: understood
win: won
goose: geese
leaf: leaves
loaf: loaves
thief: thieves
wife: wives
far: further furthest
little: littler littlest
queue: queuing queueing queued`),
	"de": forms(`beginnen: begann begonnen
bitten: bat gebeten
bleiben: blieb blieben geblieben
brechen: bricht brach gebrochen
bringen: brachte brachten gebracht
denken: dachte dachten gedacht
essen: isst aß aßen gegessen
fahren: fährt fuhr fuhren gefahren
fallen: fällt fiel fielen
finden: fand fanden gefunden
fliegen: flog geflogen
geben: gibt gab gaben gegeben
gehen: ging gingen gegangen
helfen: hilft half geholfen
kommen: kam kamen gekommen
laufen: läuft lief liefen
lesen: liest las gelesen
nehmen: nimmt nahm nahmen genommen
schließen: schloss geschlossen
schreiben: schrieb geschrieben
sehen: sieht sah sahen gesehen
sitzen: saß saßen gesessen
sprechen: spricht sprach gesprochen
stehen: stand standen gestanden
steigen: stieg gestiegen
treffen: trifft traf getroffen
trinken: trank getrunken
verlieren: verlor verloren
warten: wartete gewartet
wissen: weiß wusste gewusst
ziehen: zog gezogen
gut: besser beste bestes besten
hoch: höher höchste hohe hohen hohes
nah: näher nächste
viel: mehr meist
haus: häuser häusern
kind: kinder kindern
platz: plätze plätzen
stuhl: stühle stühlen
zug: züge zügen
hund: hunde hunden`),
	"fr": forms(`aller: vais vas va allons vont irai ira
attendre: attend attends attendu attendue
boire: bois boit buvons bu
comprendre: comprend compris comprise
connaître: connaît connu connue
croire: croit crois cru
devenir: devient devenu devenue
dire: dis dit disent
dormir: dort dors dormi
écrire: écrit écrits
lire: lis lit lisent lu
mettre: met mets mis mise
mourir: meurt mort morte
ouvrir: ouvre ouvert ouverte ouverts
partir: part parti partie
perdre: perd perdu perdue
prendre: prend prends pris prise prenons
recevoir: reçoit reçu reçue
rendre: rend rendu
savoir: sait sais su
tenir: tient tenu
venir: vient viens venu venue venus
vendre: vend vendu vendue
vivre: vit vécu
voir: vois voit vu vue vus
œil: yeux
cheval: chevaux
animal: animaux
journal: journaux
travail: travaux
bon: meilleur meilleure meilleurs
beau: belle belles beaux bel
nouveau: nouvelle nouvelles nouveaux
vieux: vieille vieilles vieil`),
	"es": forms(`andar: anduve anduvo
caer: cayó caído
conocer: conozco
cerrar: cierra cierran cerrado
dar: doy dio dieron dado
decir: digo dice dicen dijo dijeron dicho
dormir: duermo duerme durmió
empezar: empieza empiezan
encontrar: encuentra encuentran
escribir: escrito
ir: voy va vamos van fue fueron ido
jugar: juega juegan
llegar: llegué
morir: muere muerto
mover: mueve mueven
oír: oigo oye oyó
pedir: pido pide piden pidió
pensar: pienso piensa
perder: pierdo pierde pierden
poner: pongo puso puesto puesta
querer: quiero quiere quieren quiso
romper: roto rota rotos rotas
saber: sé supo
salir: salgo
seguir: sigo sigue siguen siguió
sentir: siento siente sintió
servir: sirve sirven sirvió
traer: traigo trajo trajeron
venir: vengo viene vienen vino vinieron
ver: veo vio vieron visto vista
volver: vuelvo vuelve vuelto
bueno: buen mejor mejores
malo: mal peor peores
grande: gran mayor`),
	"it": forms(`andare: vado va vanno andato andata
aprire: aperto aperta aperti aperte
bere: bevo beve bevuto
chiedere: chiesto chiesta chiesti chieste
chiudere: chiuso chiusa chiusi chiuse
correre: corso
dare: dato data diede
dire: dico dice dicono detto
leggere: letto letta letti lette
mettere: messo messa messi messe
morire: muore morto
perdere: perso persa persi perse
prendere: preso presa presi prese
rimanere: rimango rimasto rimasta
rompere: rotto rotta rotti rotte
salire: salgo sale
sapere: sa sanno
scrivere: scritto scritta scritti scritte
spendere: speso
tenere: tengo tiene
uscire: esco esce escono
vedere: visto vista visti viste
venire: vengo viene vengono venuto venuta
vivere: vissuto
uomo: uomini
uovo: uova
buono: buon buona migliore migliori
cattivo: peggio peggiore
grande: maggiore`),
	"nl": forms(`beginnen: begon begonnen
blijven: blijft bleef bleven gebleven
breken: brak gebroken
brengen: bracht gebracht
denken: dacht dachten gedacht
doen: doet deed deden gedaan
drinken: dronk gedronken
eten: at aten gegeten
gaan: gaat ging gingen gegaan
geven: geeft gaf gaven gegeven
helpen: hielp geholpen
komen: komt kwam kwamen gekomen
kopen: kocht gekocht
krijgen: kreeg kregen gekregen
lezen: las gelezen
liggen: lag gelegen
lopen: loopt liep liepen gelopen
nemen: neemt nam namen genomen
rijden: rijdt reed gereden
schrijven: schreef geschreven
slapen: slaapt sliep geslapen
sluiten: sloot gesloten
spreken: sprak gesproken
staan: staat stond stonden gestaan
vallen: viel gevallen
varen: vaart voer gevaren
vinden: vond vonden gevonden
vragen: vroeg gevraagd
weten: weet wist geweten
zien: ziet zag zagen gezien
zitten: zat zaten gezeten
zoeken: zocht gezocht
goed: beter beste
kind: kinderen
schip: schepen
stad: steden
weg: wegen`),
	"pt": forms(`abrir: aberto aberta
cair: caiu caído
dar: dou deu deram dado
dizer: digo diz dizem disse disseram dito
dormir: durmo dorme
escrever: escrito escrita
fazer: faço faz fazem fez fizeram feito feita
ganhar: ganho
gastar: gasto
ir: vou vai vamos vão foi foram ido
ler: leio lê leem
ouvir: ouço
pagar: pago paga
pedir: peço pede
perder: perco perde
poder: posso pode podem pôde
pôr: ponho põe pôs posto posta
querer: quero quer quis
saber: sei sabe soube
sair: saio sai saiu
seguir: sigo segue
sentir: sinto sente
ter: tenho tem têm teve tiveram
trazer: trago traz trouxe
ver: vejo vê veem viu viram visto vista
vir: venho vem vêm veio vieram
bom: boa bons boas melhor melhores
mau: má maus más pior piores
grande: maior
homem: homens
mão: mãos
pão: pães`)}

func forms(lines string) map[string]string {
	m := map[string]string{}
	for line := range strings.Lines(lines) {
		base, others, _ := strings.Cut(line, ":")
		for _, w := range strings.Fields(others) {
			m[w], m[text.Fold(w)] = base, base
		}
	}
	return m
}
