package edit_test

import (
	"fmt"

	"aspenridge/internal/core/edit"
)

func ExampleApply() {
	doc, err := edit.ParseObject([]byte(`{"color":{"main":{"river":{},"coral":{}}}}`))
	if err != nil {
		panic(err)
	}
	show := func() {
		data, err := edit.Marshal(doc)
		if err != nil {
			panic(err)
		}
		fmt.Println(string(data))
	}
	back, err := edit.Apply(doc, edit.Op{Path: "/color/main/river"}) // take river out
	if err != nil {
		panic(err)
	}
	show()
	if _, err := edit.Apply(doc, back); err != nil { // and put it back where it was
		panic(err)
	}
	show()
	// Output:
	// {"color":{"main":{"coral":{}}}}
	// {"color":{"main":{"river":{},"coral":{}}}}
}
