package focus

import "fmt"

func ExampleFocus_Key() {
	a, _ := Parse(`[{"kind": "coded"}, {"kind": "variable", "name": "route", "op": "=", "values": ["North", "East"]}]`)
	b, _ := Parse(`[{"kind": "variable", "name": "route", "op": "=", "values": ["North", "East"]}, {"kind": "coded"}]`)
	c, _ := Parse(`[{"kind": "coded"}, {"kind": "variable", "name": "route", "op": "=", "values": ["North East"]}]`)
	fmt.Println(a.Key() == b.Key(), a.Key() == c.Key())
	// Output: true false
}
