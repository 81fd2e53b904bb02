// Command write renews web/kinds; run it at the top of the repository.
package main

import (
	"log"

	"gobbet/internal/kinds"
)

func main() {
	if err := kinds.Write("."); err != nil {
		log.Fatal(err)
	}
}
