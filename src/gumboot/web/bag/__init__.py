"""What a phone takes along of a house: the hand's own page, pictures and cards of every act, and the person's key to keep them under."""
