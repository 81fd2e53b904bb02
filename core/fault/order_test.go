package fault

import (
	"fmt"
	"math/rand/v2"
	"testing"
)

func TestFaultsComeInTheOrderOfTheDocument(t *testing.T) {
	document, err := Read([]byte(`{"b": [{"x": 1}, {"y": 2, "x": 3}], "a": {"z": 1, "y.": 2}}`))
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"", "b", "b[0].x", "b[0].gone", "b[1]", "b[1].y", "b[1].x", "b[1].x.deeper", "b[7]", "a", "a.z", "a.missing"}
	for range 50 {
		var faults Faults
		for _, i := range rand.Perm(len(want)) {
			faults.Add(want[i], "is wrong")
		}
		faults.InOrderOf(document)
		for i, f := range faults {
			if f.At != want[i] {
				t.Fatalf("%v, want %v", faults, want)
			}
		}
	}
}

func TestFaultsAtOnePlaceStayAsTheyCame(t *testing.T) {
	var faults Faults
	for i := range 5 {
		faults.Add("a", "%d", i)
	}
	faults.InOrderOf(&Node{})
	if fmt.Sprint(faults) != "a: 0; a: 1; a: 2; a: 3; a: 4" {
		t.Error(faults)
	}
}
