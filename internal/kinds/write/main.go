// Command write renews web/kinds, docs/piece.schema.json, docs/facts.md and what web/tests compares with; run it at the top of the repository.
package main

import (
	"log"

	"gobbet/internal/kinds"
)

func main() {
	if err := kinds.Write("."); err != nil {
		log.Fatal(err)
	}
	if err := kinds.WriteSchema("."); err != nil {
		log.Fatal(err)
	}
	if err := kinds.WriteFacts("."); err != nil {
		log.Fatal(err)
	}
	if err := kinds.WriteFactBook("."); err != nil {
		log.Fatal(err)
	}
	if err := kinds.WriteWalks("."); err != nil {
		log.Fatal(err)
	}
	if err := kinds.WriteTwins("."); err != nil {
		log.Fatal(err)
	}
}
