package main

import "github.com/spf13/cobra"

func serving() []*cobra.Command { return nil }
