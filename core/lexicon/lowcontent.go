package lexicon

import "strings"

// little are words that say little in comments, beyond those of the base lists: they are offered, and hidden by nobody but the
// analyst.
var little = map[string][]string{
	"en": strings.Fields(`absolutely actually almost already anything anyway basically bit certainly completely definitely especially etc even
everything exactly give given gives hi hello honestly instead little literally lot mainly maybe mean mostly nearly ok
okay particularly please pretty probably said say says seem seemed seems simply sort still stuff sure take taken takes
thank thanks thing things think thought totally took usually way well went whole yes yet`),
	"de": strings.Fields(`absolut allerdings allgemein bisher bisschen bitte danke definitiv echt eigentlich einfach etc eventuell ganz gar
gern gerne halt irgendwie ja leider mal meist meistens natürlich nein okay relativ sache sachen teilweise total überhaupt ungefähr
vielleicht völlig wirklich ziemlich`),
	"fr": strings.Fields(`absolument alors assez beaucoup bonjour bref certain certaine certainement chose choses complètement dire
dommage effectivement enfin environ etc exactement franchement généralement juste merci oui ok personnellement peut-être simplement
surtout totalement vraiment`),
	"es": strings.Fields(`absolutamente además ahora algo bastante claro completamente cosas decir demasiado etc favor general generalmente
gracias hola horas igual nada ok realmente simplemente super tal totalmente vale verdad`),
	"nl": strings.Fields(`absoluut beetje bedankt best dingen echt eigenlijk even gewoon graag hallo helaas helemaal misschien natuurlijk
ok redelijk soms super totaal volledig werkelijk`),
}

// SayLittle are words of a language that say little in comments; none where that is not known.
func SayLittle(language string) []string { return little[language] }
