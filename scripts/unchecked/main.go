// Command unchecked runs errcheck on the packages of this module, and reads what they lean on as the
// compiler exported it. As a program of its own errcheck reads all of that from its text, for minutes.
package main

import (
	"fmt"
	"log"
	"os"

	"github.com/kisielk/errcheck/errcheck"
	"golang.org/x/tools/go/packages"
)

func main() {
	excluded, err := errcheck.ReadExcludes(".errcheck.txt")
	if err != nil {
		log.Fatal(err)
	}
	all, err := packages.Load(&packages.Config{Mode: packages.NeedName | packages.NeedFiles | packages.NeedImports |
		packages.NeedCompiledGoFiles | packages.NeedTypes | packages.NeedTypesSizes | packages.NeedSyntax |
		packages.NeedTypesInfo | packages.NeedExportFile}, os.Args[1:]...)
	if err != nil || packages.PrintErrors(all) > 0 {
		log.Fatal("the packages cannot be read: ", err)
	}
	checker := errcheck.Checker{Exclusions: errcheck.Exclusions{
		TestFiles: true, GeneratedFiles: true, BlankAssignments: true, TypeAssertions: true,
		Symbols: append(excluded, errcheck.DefaultExcludedSymbols...)}}
	found := errcheck.Result{}
	for _, p := range all {
		found.Append(checker.CheckPackage(p))
	}
	unchecked := found.Unique().UncheckedErrors
	for _, e := range unchecked {
		fmt.Printf("%s: nobody looks at the error of %s\n", e.Pos, e.FuncName)
	}
	if len(unchecked) > 0 {
		os.Exit(1)
	}
}
