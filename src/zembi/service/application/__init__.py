"""The running application: its workers, what follows when work ends, and the demo project."""
